// What is half typed stays: another act on the page, another mode or a reload leave it where it was. It is
// kept on this device alone, until it is recorded or its owner signs out.
(() => {
  "use strict";
  const NAME = "frostline-typed";
  const DAYS = 7;
  const ABOUT = ["look", "place", "sensor", "component", "red", "black", "step"];
  const who = () => document.getElementById("page")?.dataset.who ?? "";
  const base = () => location.pathname.match(/^\/calls\/[0-9a-f-]{36}\//)?.[0] ?? location.pathname;
  const read = () => {
    try {
      return JSON.parse(localStorage.getItem(NAME)) ?? {};
    } catch {
      return {};
    }
  };
  const write = (kept) => {
    try {
      localStorage.setItem(NAME, JSON.stringify(kept));
    } catch {
      // A full or forbidden store loses the convenience, not the page.
    }
  };

  const isForm = (form) => form?.method === "post" && form.elements.namedItem("slip_id");
  const about = (form) =>
    ["kind", ...ABOUT]
      .map((name) => form.elements.namedItem(name))
      .map((field) => (field instanceof HTMLInputElement && field.type === "hidden" ? field.value : ""))
      .join("|");
  const ofForm = (form) => `${who()}|${base()}|${about(form)}|`;
  const takes = (field) =>
    field.name &&
    (field instanceof HTMLTextAreaElement ||
      field instanceof HTMLSelectElement ||
      (field instanceof HTMLInputElement && !["hidden", "file", "password", "submit"].includes(field.type)));
  const ticks = (field) => field.type === "checkbox" || field.type === "radio";
  const nameOf = (field) => ofForm(field.form) + field.name + (ticks(field) ? `=${field.value}` : "");
  const begun = (field) => {
    if (ticks(field)) return field.checked !== field.defaultChecked;
    if (field instanceof HTMLSelectElement)
      return [...field.options].some((option) => option.selected !== option.defaultSelected);
    return field.value !== field.defaultValue;
  };

  const keep = (event) => {
    const field = event.target;
    if (!isForm(field.form) || !takes(field)) return;
    const kept = read();
    if (field.type === "radio")
      for (const other of field.form.elements) if (other.name === field.name) delete kept[nameOf(other)];
    if (begun(field) && (field.type !== "radio" || field.checked))
      kept[nameOf(field)] = [ticks(field) ? field.checked : field.value, Date.now()];
    else delete kept[nameOf(field)];
    write(kept);
  };
  document.addEventListener("input", keep);
  document.addEventListener("change", keep);

  const put = () => {
    const kept = read();
    const fresh = Object.entries(kept).filter(([, [, at]]) => Date.now() - at < DAYS * 86400e3);
    if (fresh.length < Object.keys(kept).length) write(Object.fromEntries(fresh));
    if (!fresh.length) return;
    for (const form of document.querySelectorAll("main form")) {
      if (!isForm(form)) continue;
      for (const field of form.elements) {
        if (!takes(field) || begun(field)) continue;
        const [value] = kept[nameOf(field)] ?? [];
        if (value === undefined) continue;
        if (ticks(field)) field.checked = value;
        else if (!field.value || field instanceof HTMLSelectElement) field.value = value;
        else continue; // the page itself says something else there
        field.closest("details")?.setAttribute("open", "");
        field.dispatchEvent(new Event("input", { bubbles: true }));
      }
    }
  };
  put();
  document.addEventListener("htmx:afterSettle", (event) => event.target?.id === "page" && put());
  document.addEventListener("frostline:shown", put);

  const forget = (form) => {
    const start = ofForm(form);
    write(Object.fromEntries(Object.entries(read()).filter(([name]) => !name.startsWith(start))));
  };
  document.addEventListener("htmx:afterRequest", (event) => {
    const form = event.detail.requestConfig?.elt; // the page may have another in its place by now
    if (event.detail.successful && isForm(form)) forget(form);
  });
  document.addEventListener("frostline:kept", (event) => forget(event.detail));
  document.addEventListener("submit", (event) => {
    if (event.target.matches("[data-forget]")) localStorage.removeItem(NAME);
  });

  window.frostline = {
    ...window.frostline,
    halfTyped: (root) =>
      [...root.querySelectorAll("form")].some(
        (form) => isForm(form) && [...form.elements].some((field) => takes(field) && begun(field)),
      ),
  };
})();
