"""Usual plants by kind of unit: an engineer's figures, tuned so that temperatures, cycles, watts and energy a
day come out as such units have them in a room of 25 °C."""

from collections.abc import Callable

from frostcore.thermal.map import CompressorMap
from frostcore.thermal.plant import (
    Bulb,
    Compartment,
    Compressor,
    Condenser,
    Defrost,
    Evaporator,
    Loop,
    Module,
    Thermal,
)


def single_evaporator() -> Thermal:
    """A freezer with the evaporator, a fridge that gets its air through a damper; defrost by hours run."""
    return Thermal(
        "single_evaporator",
        (
            Compartment("fridge", 8e3, 60e3, 25e3, 9.0, 9.0, 1.05, openings=25, leak_vapour=4e-7, seal=0.1),
            Compartment("freezer", 8e3, 52e3, 22e3, 8.0, 9.0, 0.8, openings=8, leak_vapour=4e-7, seal=0.08),
        ),
        (
            Evaporator(
                "evaporator", 5e3, {"freezer": 22.0, "fridge": 3.4}, fan="evaporator_fan", fan_watts=4.0,
                still=0.12, damper="damper", damper_of="fridge", frost_block=1.6, heater="defrost_heater",
                heater_watts=220.0,
            ),
        ),
        (
            Loop("sensor:freezer", -15.2, -20.2, "compressor"),
            Loop("sensor:fridge", 5.0, 3.0, "damper:damper"),
        ),
        Compressor("compressor", CompressorMap(150.0, 95.0)),
        Condenser(14.0, 6.0, 4e3, "condenser_fan", 3.0),
        defrost=Defrost("run_hours"),
    )  # fmt: skip


def dual_evaporator() -> Thermal:
    """An evaporator in each compartment, a valve that sends the refrigerant to one of them."""
    return Thermal(
        "dual_evaporator",
        (
            Compartment("fridge", 8e3, 75e3, 28e3, 9.0, 9.0, 1.1, openings=25, leak_vapour=3e-7, seal=0.1),
            Compartment("freezer", 8e3, 52e3, 22e3, 8.0, 9.0, 0.85, openings=8, leak_vapour=3e-7, seal=0.08),
        ),
        (
            Evaporator(
                "fridge_evaporator", 4e3, {"fridge": 12.0}, fan="fridge_fan", fan_watts=3.0, still=0.1,
            ),
            Evaporator(
                "freezer_evaporator", 5e3, {"freezer": 20.0}, fan="freezer_fan", fan_watts=3.5, still=0.12,
                heater="defrost_heater", heater_watts=200.0,
            ),
        ),
        (
            Loop("sensor:fridge", 5.8, 3.0, "valve:fridge_evaporator"),
            Loop("sensor:freezer", -16.5, -20.0, "valve:freezer_evaporator"),
        ),
        Compressor("compressor", CompressorMap(135.0, 86.0)),
        Condenser(14.0, 6.0, 4e3, "condenser_fan", 3.0),
        defrost=Defrost("run_hours"),
    )  # fmt: skip


def cold_plate() -> Thermal:
    """A cabinet with a cold plate that loses its frost at each stop: the control senses the plate."""
    return Thermal(
        "cold_plate",
        (Compartment("cabinet", 7e3, 60e3, 25e3, 9.0, 9.0, 1.35, openings=20, leak_vapour=3e-7, seal=0.12),),
        (Evaporator("cold_plate", 6e3, {"cabinet": 2.9}, frost_block=1.2, takes_vapour=8e-4),),
        (Loop("bulb:cold_plate", 4.5, -19.0, "compressor"),),
        Compressor("compressor", CompressorMap(68.0, 55.0)),
        Condenser(7.0, 5.0, 4e3),
        bulbs=(Bulb("cold_plate", "cabinet"),),
        base_watts=1.0,
    )  # fmt: skip


def mechanical() -> Thermal:
    """A thermostat's bulb at the freezer's evaporator, a fridge that shares its air, a defrost timer."""
    plain = single_evaporator()
    return plain.changed(
        kind="mechanical",
        evaporators=(
            Evaporator(
                "evaporator", 5e3, {"freezer": 22.0, "fridge": 1.55}, fan="evaporator_fan", fan_watts=5.0,
                still=0.12, frost_block=1.6, heater="defrost_heater", heater_watts=200.0,
            ),
        ),
        loops=(Loop("bulb:evaporator", -15.0, -24.0, "compressor"),),
        bulbs=(Bulb("evaporator", "freezer", 0.6, 180.0),),
        condenser=Condenser(9.0, 9.0, 5e3),
        defrost=Defrost("run_hours", 8.0, 10.0, 21.0, 0.0),
        base_watts=0.0,
    )  # fmt: skip


def wine_cooler() -> Thermal:
    """A one-zone wine cooler with a compressor and a fan that always turns."""
    return Thermal(
        "wine_cooler",
        (Compartment("cabinet", 6e3, 60e3, 20e3, 8.0, 8.0, 1.5, openings=4, leak_vapour=1e-7, seal=0.08),),
        (
            Evaporator(
                "evaporator", 3e3, {"cabinet": 7.0}, fan="cabinet_fan", fan_runs="always", fan_watts=2.0,
                still=0.25, frost_block=1.0,
            ),
        ),
        (Loop("sensor:cabinet", 13.4, 11.0, "compressor"),),
        Compressor("compressor", CompressorMap(46.0, 60.0, evaporating=-5.0)),
        Condenser(8.0, 4.0, 3e3, "condenser_fan", 2.0),
        base_watts=2.0,
    )  # fmt: skip


def thermoelectric() -> Thermal:
    """Two wine zones, a thermoelectric module and two fans each."""

    def zone(place: str) -> Compartment:
        return Compartment(place, 3e3, 45e3, 10e3, 5.0, 5.0, 0.42, openings=3, leak_vapour=5e-8, seal=0.04)

    def block(place: str) -> Evaporator:
        name = place.removesuffix("_zone")
        return Evaporator(
            f"{name}_block", 0.8e3, {place: 3.5}, fan=f"{name}_zone_fan", fan_runs="always", fan_watts=1.2,
            still=0.35,
        )  # fmt: skip

    def module(name: str) -> Module:
        return Module(
            f"{name}_module", f"{name}_block", 0.05, 2.1, 0.5, 3.4, 1.0e3, 3.2, 0.7, f"{name}_sink_fan", 2.2
        )

    return Thermal(
        "thermoelectric",
        (zone("upper_zone"), zone("lower_zone")),
        (block("upper_zone"), block("lower_zone")),
        (
            Loop("sensor:upper_zone", 14.4, 13.6, "module:upper_module"),
            Loop("sensor:lower_zone", 12.4, 11.6, "module:lower_module"),
        ),
        modules=(module("upper"), module("lower")),
        joins=(("upper_zone", "lower_zone", 0.15),),
        base_watts=1.0,
        supply_share=0.85,
    )


USUAL: dict[str, Callable[[], Thermal]] = {
    "single_evaporator": single_evaporator,
    "dual_evaporator": dual_evaporator,
    "mechanical": mechanical,
    "cold_plate": cold_plate,
    "wine_cooler": wine_cooler,
    "thermoelectric": thermoelectric,
}
"""Plants by kind."""
