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

  document.addEventListener("keydown", (event) => {
    if (event.ctrlKey || event.metaKey || event.altKey) return;
    if (event.key === "Escape") {
      document.querySelectorAll("details.menu[open]").forEach((menu) => menu.removeAttribute("open"));
      if (typing(document.activeElement)) document.activeElement.blur();
      return;
    }
    if (typing(document.activeElement) || dialog()?.open) return;
    const actions = {
      "?": () => (dialog()?.showModal(), true),
      n: () => click("[data-key=n]"),
      h: () => click("a.brand"),
      x: () => click("[data-key=x]"),
      u: () => click("[data-key=u]"),
      l: () => click("[data-key=l]"),
      r: () => {
        const field = document.querySelector(
          "main form input:not([type=hidden]), main form textarea, main form select",
        );
        field?.focus();
        return Boolean(field);
      },
    };
    const action = /^[1-9]$/.test(event.key) ? () => click(`[data-key="${event.key}"]`) : actions[event.key];
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

  // Where the next thing is typed; the page stays at its top, where the act stands.
  const focusNext = () => {
    const field = document.querySelector("[data-focus]");
    if (field && !typing(document.activeElement)) field.focus({ preventScroll: true });
  };
  focusNext();
  document.addEventListener("htmx:afterSettle", (event) => event.target?.id === "page" && focusNext());

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
