"""Two service papers in the manner of real ones, of units invented for it; as text, table by table."""

ENGLISH = {
    "plate": {
        "maker": "Norwick",
        "model": "NX-300",
        "mains_volts": "120",
        "mains_hertz": "60",
        "refrigerant": "R600a",
        "charge_grams": "62",
        "defrost_heater_watts": "200",
    },
    "codes": """CODE\tDESCRIPTION\tCHECK
d1\tFridge sensor open or short\t5.0 k at 77 F
d2\tFreezer sensor open or short\t5.0 k at 77 F
d3\tDefrost sensor open or short\t5.0 k at 77 F
d4\tDefrost did not end in time\theater 72 ohms
d5\tPanel does not answer\t5 V at CN6""",
    "sensors": """TEMP (°F)\tR min (kΩ)\tR nom (kΩ)\tR max (kΩ)\tVOLTS
−4\t44.8\t46.5\t48.3\t4.1
14\t26.6\t27.6¹\t28.6\t3.7
32\t15.8\t16.33\t16.8\t3.1
50\t9.6\t9.95\t10.3\t2.5
77\t4.9\t5.0\t5.1\t1.7""",
    "plugs": """CONNECTOR\tPIN\tWIRE\tLABEL\tGOES TO
CN1\t1\tBK\tL\tMains
\t2\tWH\tN\tMains
CN2\t1\tRD\tCOMP\tCompressor
\t2\tWH\tN\tCompressor
\t3\tOG\tFAN-C\tCondenser fan
\t4\tWH\tN\tCondenser fan
\t5\tBN\tHTR\tDefrost heater
\t6\tWH\tN\tDefrost heater
\t7\t–\t–\t–
CN3\t1\tGY\tFRG\tFridge sensor
\t2\tGY\tFRG\tFridge sensor
\t3\tBU\tFRZ\tFreezer sensor
\t4\tBU\tFRZ\tFreezer sensor
\t5\tVT\tDEF\tDefrost sensor
\t6\tVT\tDEF\tDefrost sensor
CN4\t1\tRD\tFAN+\tEvaporator fan
\t2\tBK\tFAN−\tEvaporator fan
\t3\tYE\tA\tDamper
\t4\tGN\tB\tDamper
\t5\tPK\tSW\tDamper
\t6\tBK\tSW\tDamper""",
    "parts": """ITEM NO\tDESCRIPTION\tPART NO\tQTY\tPRICE
1\tDefrost heater\tNX-0418\t1\t$41.50
2\tEvaporator fan\tNX-0233\t1\t$38.00 ea.
3\tCompressor\tNX-0900\t1\t$212.00""",
}
"""A paper in English, in °F, wire colours abbreviated."""

GERMAN = {
    "plate": {
        "maker": "Halden",
        "model": "KG 77/2",
        "mains_volts": "230",
        "mains_hertz": "50",
        "refrigerant": "R600a",
        "charge_grams": "45",
        "defrost_heater_watts": "180",
    },
    "codes": """Anzeige\tBedeutung
F1\tKühlraumfühler: Unterbrechung oder Kurzschluss
F2\tGefrierraumfühler: Unterbrechung oder Kurzschluss
F3\tAbtaufühler: Unterbrechung oder Kurzschluss
F4\tAbtauung nicht beendet""",
    "sensors": """Temperatur\tWiderstand
°C\tΩ
-30\t88.500
-20\t48.600
-10\t27.700
0\t16.330
10\t9.950
25\t5.000""",
    "plugs": """Stecker\tKlemme\tAder\tBezeichnung\tZiel
X1\t1\tsw\tL\tNetz
\t2\tbl\tN\tNetz
X2\t1\tbr\tV\tVerdichter
\t2\tbl\tN\tVerdichter
\t3\trt\tLV\tVerflüssigerlüfter
\t4\tbl\tN\tVerflüssigerlüfter
\t5\tvi\tH\tAbtauheizung
\t6\tbl\tN\tAbtauheizung
X3\t1\tgr\tK\tKühlraumfühler
\t2\tgr\tK\tdto.
\t3\tgn\tG\tGefrierraumfühler
\t4\tgn\tG\tdto.
\t5\tws\tA\tAbtaufühler
\t6\tws\tA\tdto.
X4\t1\trt\t+\tVerdampferlüfter
\t2\tsw\t-\tVerdampferlüfter""",
    "parts": """Pos.\tBest.-Nr.\tBenennung\tMenge\tPreis
1\t77-104\tAbtauheizung\t1\t39,50 EUR
2\t77-112\tVerdampferlüfter\t1\t44,90 EUR
3\t77-900\tVerdichter\t1\t1.189,00 EUR""",
}
"""A paper in German, decimal commas, a dot for thousands."""
