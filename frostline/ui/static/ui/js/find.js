// A long list is found in by typing first letters: of a word of a choice, or of a row.
(() => {
  "use strict";
  const LONG = 9;
  const plain = (text) => text.trim().toLocaleLowerCase();
  const begins = (text, typed) =>
    plain(text)
      .split(/[\s,:()/-]+/)
      .some((_, at, words) => words.slice(at).join(" ").startsWith(typed));

  const field = () => {
    const input = document.createElement("input");
    input.type = "search";
    input.className = "find";
    input.placeholder = "first letters";
    input.autocomplete = "off";
    input.setAttribute("aria-label", "Find by first letters");
    return input;
  };

  const inSelect = (select) => {
    const input = field();
    const options = [...select.options];
    const first = () =>
      options.find((option) => option.value && begins(option.textContent, plain(input.value)));
    input.addEventListener("input", () => {
      const typed = plain(input.value);
      options.forEach(
        (option) => (option.hidden = Boolean(typed && option.value && !begins(option.textContent, typed))),
      );
      const found = typed && first();
      input.setAttribute("aria-invalid", String(Boolean(typed && !found)));
      if (found) select.value = found.value;
    });
    const choose = (event) => {
      event.preventDefault();
      event.stopPropagation();
      if (!plain(input.value) || !first()) return;
      input.value = "";
      options.forEach((option) => (option.hidden = false));
      input.blur(); // what comes of it decides where the next thing is typed
      select.dispatchEvent(new Event("change", { bubbles: true }));
    };
    input.addEventListener("keydown", (event) => event.key === "Enter" && choose(event));
    input.addEventListener("change", choose);
    select.before(input);
  };

  const inRows = (list) => {
    const input = field();
    const rows = [...list.children];
    input.addEventListener("input", () => {
      const typed = plain(input.value);
      rows.forEach((row) => (row.hidden = Boolean(typed && !begins(row.textContent, typed))));
    });
    list.before(input);
  };

  const build = () => {
    document.querySelectorAll("main select:not([data-found])").forEach((select) => {
      select.dataset.found = "";
      if (select.options.length > LONG && !select.multiple) inSelect(select);
    });
    document.querySelectorAll("main .looks:not([data-found])").forEach((list) => {
      list.dataset.found = "";
      if (list.children.length > LONG) inRows(list);
    });
  };
  build();
  document.addEventListener("htmx:afterSettle", build);
  document.addEventListener("frostline:shown", build);
})();
