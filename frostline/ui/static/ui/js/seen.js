// The display pad, the tap-along, the replay of a rhythm, the ice bath's clock. They only fill fields; the
// core does the reading.
(() => {
  "use strict";

  // Pad: a segment toggles; the frames' text goes to the hidden field, whose change asks for the codes.
  const padText = (pad) => {
    const frames = [...pad.querySelectorAll(".pad-frame")].map((frame) => {
      const digits = {};
      frame.querySelectorAll(".pad-segment").forEach((segment) => {
        digits[segment.dataset.digit] ??= "";
        if (segment.getAttribute("aria-checked") === "true")
          digits[segment.dataset.digit] += segment.dataset.letter;
      });
      return Object.values(digits);
    });
    return frames.flat().some((digit) => digit)
      ? frames.map((digits) => digits.map((digit) => `[${digit}]`).join("")).join(" / ")
      : "";
  };
  const tell = (field, value) => {
    field.value = value;
    field.dispatchEvent(new Event("change", { bubbles: true }));
  };
  const tellPad = (pad) => tell(pad.querySelector("[name=frames]"), padText(pad));
  const clear = (frame) =>
    frame
      .querySelectorAll(".pad-segment")
      .forEach((segment) => segment.setAttribute("aria-checked", "false"));
  const toggle = (segment) => {
    segment.setAttribute("aria-checked", String(segment.getAttribute("aria-checked") !== "true"));
    tellPad(segment.closest("[data-pad]"));
  };

  // Taps: the first is time zero; each is start-end in seconds, by the moment of the
  // touch, not by when the page got round to it.
  const session = new WeakMap();
  const begin = (button, at) => {
    const box = button.closest("[data-taps]");
    const state = session.get(box) ?? { origin: at, taps: [], timer: 0, down: null };
    session.set(box, state);
    if (state.taps.length === 0 && state.down === null) state.origin = at;
    if (state.down !== null) return;
    state.down = (at - state.origin) / 1000;
    clearTimeout(state.timer);
    button.classList.add("on");
  };
  const end = (button, at) => {
    const box = button.closest("[data-taps]");
    const state = session.get(box);
    if (!state || state.down === null) return;
    state.taps.push(`${state.down.toFixed(3)}-${((at - state.origin) / 1000).toFixed(3)}`);
    state.down = null;
    button.classList.remove("on");
    box.querySelector("[data-tap-count]").textContent = `${state.taps.length} tapped`;
    state.timer = setTimeout(() => tell(box.querySelector("[name=taps]"), state.taps.join(",")), 1500);
  };
  document.addEventListener("pointerdown", (event) => {
    const button = event.target.closest?.("[data-tap]");
    if (button) {
      button.setPointerCapture(event.pointerId);
      begin(button, event.timeStamp);
    }
  });
  ["pointerup", "pointercancel"].forEach((kind) =>
    document.addEventListener(kind, (event) => {
      const button = event.target.closest?.("[data-tap]");
      if (button) end(button, event.timeStamp);
    }),
  );
  document.addEventListener("keydown", (event) => {
    if (event.key !== " " && event.key !== "Enter") return;
    if (event.target.matches?.(".pad-segment")) {
      event.preventDefault();
      toggle(event.target);
    } else if (event.target.matches?.("[data-tap]")) {
      event.preventDefault();
      if (!event.repeat) begin(event.target, event.timeStamp);
    }
  });
  document.addEventListener("keyup", (event) => {
    if ((event.key === " " || event.key === "Enter") && event.target.matches?.("[data-tap]"))
      end(event.target, event.timeStamp);
  });

  // Ice bath: the clock starts with the first reading; each press notes the time with the reading.
  const clocks = new WeakMap();
  const note = (form) => {
    const reading = form.querySelector("[data-settle-reading]");
    if (!reading.value.trim()) return reading.focus();
    const started = clocks.get(form) ?? performance.now();
    clocks.set(form, started);
    const area = form.querySelector("[name=readings]");
    const seconds = Math.round((performance.now() - started) / 1000);
    area.value = `${area.value.trim()}\n${seconds}s=${reading.value.trim()}`.trim();
    reading.value = "";
    reading.focus();
    area.dispatchEvent(new Event("input", { bubbles: true }));
  };
  setInterval(
    () =>
      document.querySelectorAll("[data-settle]").forEach((form) => {
        const started = clocks.get(form);
        if (started)
          form.querySelector("[data-settle-clock]").textContent =
            `${Math.round((performance.now() - started) / 1000)} s`;
      }),
    1000,
  );
  document.addEventListener("keydown", (event) => {
    if (event.key === "Enter" && event.target.matches?.("[data-settle-reading]")) {
      event.preventDefault();
      note(event.target.closest("[data-settle]"));
    }
  });

  document.addEventListener("click", (event) => {
    const find = (selector) => event.target.closest?.(selector);
    if (find(".pad-segment")) toggle(find(".pad-segment"));
    if (find("[data-pad-add]")) {
      const frames = find("[data-pad]").querySelector("[data-pad-frames]");
      if (frames.children.length < 4) {
        const copy = frames.lastElementChild.cloneNode(true);
        clear(copy);
        frames.append(copy);
      }
    }
    if (find("[data-pad-clear]")) {
      const pad = find("[data-pad]");
      const frames = pad.querySelector("[data-pad-frames]");
      while (frames.children.length > 1) frames.lastElementChild.remove();
      clear(frames);
      tellPad(pad);
    }
    if (find("[data-tap-clear]")) {
      const box = find("[data-taps]");
      clearTimeout(session.get(box)?.timer);
      session.delete(box);
      box.querySelector("[data-tap-count]").textContent = "";
      tell(box.querySelector("[name=taps]"), "");
    }
    if (find("[data-settle-add]")) note(find("[data-settle]"));
  });

  // A file's text goes into the field it names, to be seen before it is sent.
  document.addEventListener("change", async (event) => {
    const file = event.target.dataset?.fileInto && event.target.files[0];
    if (file) event.target.form.elements[event.target.dataset.fileInto].value = await file.text();
  });

  // Replay: the found rhythm blinks for as long as it is on the page.
  const replay = (lamp) => {
    const times = lamp.dataset.replay.split(";").map((pair) => pair.split(",").map(Number));
    const round = (times.at(-1)[1] + Number(lamp.dataset.replayPause)) * 1000;
    const play = () => {
      if (!lamp.isConnected) return;
      times.forEach(([on, off]) => {
        setTimeout(() => lamp.classList.add("on"), on * 1000);
        setTimeout(() => lamp.classList.remove("on"), off * 1000);
      });
      setTimeout(play, round);
    };
    play();
  };
  const wake = () => {
    document.querySelectorAll(".replay-lamp[data-replay]:not([data-playing])").forEach((lamp) => {
      lamp.dataset.playing = "";
      replay(lamp);
    });
    document
      .querySelectorAll("[data-settle-entry][hidden]")
      .forEach((entry) => entry.removeAttribute("hidden"));
  };
  document.addEventListener("htmx:afterSettle", wake);
  wake();
})();
