// Shortcuts, the print button, and closing the menu. Everything here is a convenience: the pages work
// without it.
(() => {
  "use strict";
  const typing = (element) =>
    element && (element.isContentEditable || /^(INPUT|TEXTAREA|SELECT)$/.test(element.tagName));
  const dialog = () => document.getElementById("shortcuts");
  const click = (selector) => {
    const element = document.querySelector(selector);
    if (element) element.click();
    return Boolean(element);
  };

  const focus = (selector) => {
    const element = document.querySelector(selector);
    element?.focus();
    return Boolean(element);
  };

  document.addEventListener("keydown", (event) => {
    if (event.ctrlKey || event.metaKey || event.altKey) return;
    if (event.key === "Escape") {
      document.querySelectorAll("details.menu[open]").forEach((menu) => menu.removeAttribute("open"));
      if (typing(document.activeElement)) document.activeElement.blur();
      return;
    }
    if (typing(document.activeElement) || dialog()?.open) return;
    if (document.documentElement.dataset.shortcuts === "off") return;
    const actions = {
      "?": () => (dialog()?.showModal(), true),
      n: () => click("[data-key=n]"),
      h: () => click("a.brand"),
      x: () => click("[data-key=x]"),
      p: () => focus("[data-power]"), // records nothing: the button still wants its own key
      s: () => focus("#suspects summary"),
      r: () => {
        const field = document.querySelector(
          "main form input:not([type=hidden]), main form textarea, main form select",
        );
        field?.focus();
        return Boolean(field);
      },
    };
    const action = /^[0-9]$/.test(event.key) ? () => click(`[data-key="${event.key}"]`) : actions[event.key];
    if (action && action()) event.preventDefault();
  });

  document.addEventListener("click", (event) => {
    if (event.target.closest("[data-shortcuts-open]")) dialog()?.showModal();
    if (event.target.closest("[data-shortcuts-close]")) dialog()?.close();
    if (event.target.closest("[data-print]")) window.print();
    document.querySelectorAll("details.menu[open]").forEach((menu) => {
      if (!menu.contains(event.target)) menu.removeAttribute("open");
    });
  });

  // Keys for what a telephone's keypad of digits lacks; the field keeps the focus.
  document.addEventListener(
    "pointerdown",
    (event) => event.target.closest?.("[data-types]") && event.preventDefault(),
  );
  document.addEventListener("click", (event) => {
    const key = event.target.closest?.("[data-types]");
    const field = key && document.getElementById(key.dataset.into);
    if (!field) return;
    const text = key.dataset.types;
    const whole = text === "OL";
    field.setRangeText(
      text,
      whole ? 0 : field.selectionStart,
      whole ? field.value.length : field.selectionEnd,
      "end",
    );
    field.dispatchEvent(new Event("input", { bubbles: true }));
    field.focus({ preventScroll: true });
  });

  // A mode that times out: the time left runs down where it is shown; a chooser answers to its change.
  const countDown = () =>
    document.querySelectorAll("[data-until]").forEach((place) => {
      const seconds = Math.round((new Date(place.dataset.until) - Date.now()) / 1000);
      place.textContent =
        seconds > 0
          ? `${Math.floor(seconds / 60)}:${String(seconds % 60).padStart(2, "0")}`
          : "0:00: it has ended";
    });
  setInterval(countDown, 1000);
  countDown();
  document.addEventListener("htmx:afterSettle", countDown);

  // A picture that goes on says so; the stage one is at is in sight.
  const edges = () =>
    document.querySelectorAll(".trace-pan").forEach((pan) => {
      const more = [];
      if (pan.scrollWidth - pan.clientWidth - pan.scrollLeft > 8) more.push("right");
      if (pan.scrollHeight - pan.clientHeight - pan.scrollTop > 8) more.push("down");
      pan.parentElement.dataset.more = more.join(" ");
    });
  const arrive = () => {
    edges();
    const [nav, here] = [
      document.querySelector("nav.stages"),
      document.querySelector("nav.stages [aria-current]"),
    ];
    if (nav && here) nav.scrollLeft = here.offsetLeft - (nav.clientWidth - here.offsetWidth) / 2;
  };
  document.addEventListener("scroll", edges, { capture: true, passive: true });
  window.addEventListener("resize", edges);
  document.addEventListener("htmx:afterSettle", arrive);
  arrive();

  // A connection that fails must say so where the hand is; what was typed is still in the form.
  document.addEventListener("htmx:sendError", (event) => {
    if (event.detail.elt?.elements?.namedItem?.("slip_id")) return; // it waits in the outbox
    const note = document.createElement("p");
    note.className = "flash flash-bad";
    note.setAttribute("role", "alert");
    note.textContent =
      "No connection. What you typed is still here; send it again when the connection is back." +
      " It is recorded only once.";
    document.querySelectorAll(".flash-bad").forEach((old) => old.remove());
    document.getElementById("content")?.before(note);
  });
})();
