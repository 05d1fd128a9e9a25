// Two screens on one call, and a screen without a connection: what another records is on this one's tape
// within two seconds, and the word about the plug is never older than it says.
(() => {
  "use strict";
  const EVERY = 1500;
  const STALE = 5000;
  const UNTOUCHED = 5000;
  const power = () => document.getElementById("power");
  const tape = () => document.getElementById("tape");
  const work = () => document.getElementById("work");
  const tell = (name, detail) => document.dispatchEvent(new CustomEvent(`frostline:${name}`, { detail }));

  let heard = Date.now();
  let touched = 0;
  let busy = false;
  let waiting = []; // entries of this device that are not sent yet
  for (const kind of ["pointerdown", "keydown", "input"])
    document.addEventListener(kind, () => (touched = Date.now()), { capture: true, passive: true });
  document.addEventListener(
    "htmx:beforeRequest",
    (event) => event.detail.target?.id === "page" && (busy = true),
  );
  document.addEventListener(
    "htmx:afterRequest",
    (event) => event.detail.target?.id === "page" && (busy = false),
  );

  // The plug's word: by what waits on this device, else as the server has it; with its age where it has one.
  const said = (entry) =>
    entry.fields.find(([name]) => name === "set_power")?.[1] ||
    (entry.fields.some(([name, value]) => name === "kind" && value === "power_set") &&
      entry.fields.find(([name]) => name === "state")?.[1]);
  const drawPower = () => {
    const banner = power();
    if (!banner) return;
    const mine = waiting.filter((entry) =>
      new URL(entry.url, location.href).pathname.startsWith(banner.dataset.call),
    );
    const state = mine.map(said).filter(Boolean).at(-1);
    const template = state && document.getElementById(`power-${state}`);
    if (template && !banner.classList.contains(`power-${state}`)) {
      banner.querySelectorAll(".power-state, .power-caution").forEach((part) => part.remove());
      banner.prepend(template.content.cloneNode(true));
      banner.className = `power power-${state}`;
    }
    const old = Date.now() - heard > STALE;
    const note = banner.querySelector(".power-seen") ?? document.createElement("span");
    note.className = "power-seen";
    note.textContent = template ? "not sent yet" : old ? `as last seen, ${banner.dataset.at}` : "";
    if (note.textContent) banner.querySelector(".power-state")?.append(note);
    else note.remove();
  };
  document.addEventListener("frostline:waiting", (event) => {
    waiting = event.detail;
    drawPower();
  });

  const swap = (fresh, selector) => {
    const [old, now] = [document.querySelector(selector), fresh.querySelector(selector)];
    if (!old || !now) return;
    old.replaceWith(now);
    window.htmx.process(now);
  };
  const showWork = (fresh) => {
    swap(fresh, "#work");
    document.title = fresh.title || document.title;
    tell("shown");
  };
  const other = async () => {
    const response = await fetch(location.href, { credentials: "same-origin" }).catch(() => null);
    if (!response?.ok || busy || waiting.length) return;
    const fresh = new DOMParser().parseFromString(await response.text(), "text/html");
    const next = fresh.getElementById("tape");
    if (!next || next.dataset.slip === tape()?.dataset.slip) return;
    const words = `${next.dataset.by}: ${next.dataset.said}`;
    const opened = [...document.querySelectorAll(".side details[open] > summary")].map(
      (each) => each.textContent,
    );
    for (const part of ["#power", "nav.stages", ".side"]) swap(fresh, part);
    for (const each of document.querySelectorAll(".side details > summary"))
      if (opened.includes(each.textContent)) each.parentElement.open = true;
    drawPower();
    tell("say", `From another screen. ${words}`);
    const idle = Date.now() - touched > UNTOUCHED;
    if (idle && !window.frostline.halfTyped(work()) && !work().querySelector(".ask, details[open]"))
      return showWork(fresh);
    work().querySelector(".elsewhere")?.remove();
    const note = document.createElement("p");
    note.className = "elsewhere";
    const button = document.createElement("button");
    button.type = "button";
    button.className = "button small";
    button.textContent = "Show what follows";
    button.addEventListener("click", () => showWork(fresh));
    note.append(`From another screen: ${words}. `, button);
    work().prepend(note);
  };

  const ask = async () => {
    const banner = power();
    if (!banner || document.visibilityState !== "visible") return;
    const response = await fetch(banner.dataset.newest, { credentials: "same-origin" }).catch(() => null);
    if (response?.ok && !response.redirected) {
      heard = Date.now();
      const { newest } = await response.json();
      if (!busy && !waiting.length && newest !== tape()?.dataset.slip) await other();
    }
    drawPower();
  };
  const round = () => ask().finally(() => setTimeout(round, EVERY));
  setTimeout(round, EVERY);
  document.addEventListener("visibilitychange", ask);
  document.addEventListener("htmx:afterSettle", (event) => {
    if (event.target?.id !== "page") return;
    heard = Date.now();
    drawPower();
  });
})();
