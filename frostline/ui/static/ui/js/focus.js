// Where the eye and the fingers are: after an act the focus stands where the next thing is typed, else where
// it was; a page that was gone to begins at its top; what was recorded is said.
(() => {
  "use strict";
  const typing = (element) => element?.matches?.("input, textarea, select") ?? false;
  const told = () => document.getElementById("told");
  const tape = () => document.getElementById("tape");
  const say = (text) => {
    if (told()) told().textContent = text;
  };

  // An element by what it is and of which form, for those that a page drawn anew has again.
  const signature = (element) => {
    const form = element.form;
    const own = form
      ? [...form.elements]
          .filter(
            (field) => field.type === "hidden" && !/^(slip_id|csrfmiddlewaretoken|made_at)$/.test(field.name),
          )
          .map((field) => `${field.name}=${field.value}`)
          .join("&")
      : "";
    const what =
      element.getAttribute("href") ?? `${element.name ?? ""}=${typing(element) ? "" : (element.value ?? "")}`;
    const said = element.matches("summary") ? element.textContent.trim() : "";
    return `${element.tagName}|${what}|${said}|${own}`;
  };
  const again = (mark) =>
    [...document.querySelectorAll("a, button, input, textarea, select, summary")].find(
      (element) => element.offsetParent && signature(element) === mark,
    );

  let before = { path: location.pathname, mark: "", slip: tape()?.dataset.slip };
  const remember = () => {
    const active = document.activeElement;
    before = {
      path: location.pathname,
      mark: active && active !== document.body && active.closest("#page") ? signature(active) : "",
      slip: tape()?.dataset.slip,
    };
  };
  document.addEventListener("htmx:beforeSwap", (event) => event.detail.target?.id === "page" && remember());

  // On a page that opens with a picture a telephone's keypad would hide it.
  const nextTyped = (opened) => {
    const coarse = opened && window.matchMedia("(pointer: coarse)").matches;
    return document.querySelector(coarse ? "[data-focus]:not([data-focus=fine])" : "[data-focus]");
  };
  const place = () => {
    const next = nextTyped(before.path !== location.pathname);
    const held = document.activeElement;
    if (held && held !== document.body && held.id !== "content" && typing(held)) return;
    if (next) return next.focus({ preventScroll: true });
    if (held && held !== document.body) return;
    const same = before.mark && before.path === location.pathname && again(before.mark);
    (same || document.getElementById("content"))?.focus({ preventScroll: true });
  };
  const settled = () => {
    const moved = before.path !== location.pathname;
    if (moved) window.scrollTo(0, 0);
    place();
    const slip = tape()?.dataset.slip;
    if (slip && slip !== before.slip && !moved) say(`Recorded. ${tape().dataset.said}`);
    before = { path: location.pathname, mark: "", slip };
  };
  document.addEventListener("htmx:afterSettle", (event) => event.target?.id === "page" && settled());
  const first = nextTyped(true);
  if (first && document.activeElement === document.body) first.focus({ preventScroll: true });
  document.addEventListener("frostline:say", (event) => say(event.detail));
  document.addEventListener("frostline:shown", place);
})();
