// A draft's table, typed with spreadsheet manners: Tab and arrows move, Enter goes to the next row, a table
// pasted into a cell fills those beside and below it, Control Z undoes. Every cell is kept as it is left.
(() => {
  "use strict";
  const tables = () => document.querySelectorAll("[data-grid]");
  const token = () => document.querySelector("[name=csrfmiddlewaretoken]")?.value || "";
  const state = new WeakMap();
  const of = (table) => {
    if (!state.has(table)) state.set(table, { queue: [], undo: [], busy: false, timer: 0 });
    return state.get(table);
  };
  const rows = (table) => [...table.tBodies[0].rows];
  const cells = (row) => [...row.querySelectorAll("input[data-column]")];
  const rowOf = (input) => input.closest("tr");
  const tell = (table, text) => {
    const place = document.querySelector("[data-grid-state]");
    if (place) place.textContent = text;
  };
  const seen = (input) => input.dataset.seen ?? input.defaultValue;

  // Sending. An edit has an id of its own and is sent until it is taken: what was typed is never lost.
  const queue = (table, edit) => {
    const mine = of(table);
    mine.queue.push({ id: crypto.randomUUID(), section: table.dataset.section, ...edit });
    keep(table);
    tell(table, "saving…");
    clearTimeout(mine.timer);
    mine.timer = setTimeout(() => send(table), 250);
  };
  const store = (table) => `frost-grid:${table.dataset.edit}`;
  const keep = (table) => {
    try {
      const mine = of(table);
      if (mine.queue.length) localStorage.setItem(store(table), JSON.stringify(mine.queue));
      else localStorage.removeItem(store(table));
    } catch {
      // A browser that keeps nothing still sends.
    }
  };
  const send = async (table) => {
    const mine = of(table);
    if (mine.busy || !mine.queue.length) return;
    mine.busy = true;
    const edits = mine.queue.slice(0, 300);
    tell(table, "saving…");
    try {
      const answer = await fetch(table.dataset.edit, {
        method: "POST",
        headers: { "Content-Type": "application/json", "X-CSRFToken": token() },
        body: JSON.stringify({ edits }),
      });
      const told = await answer.json();
      if (!answer.ok && answer.status !== 422) throw new Error(told.problem || answer.statusText);
      mine.queue = mine.queue.slice(edits.length);
      keep(table);
      if (told.problem) tell(table, told.problem);
      else {
        tell(table, mine.queue.length ? "saving…" : "kept");
        table.dataset.version = told.version;
        mark(table, told.problems || [], told.taken || []);
        for (const conflict of told.conflicts || []) clash(table, conflict);
        document.body.dispatchEvent(new CustomEvent("side"));
      }
      if (mine.queue.length) setTimeout(() => send(table), 50);
    } catch {
      tell(table, "not kept yet: no connection. It is tried again.");
      setTimeout(() => send(table), 3000);
    } finally {
      mine.busy = false;
    }
  };

  // What is wrong stands under its cell, with likely cures as buttons.
  const mark = (table, problems, taken) => {
    table.querySelectorAll(".grid-problem:not(.grid-clash), .grid-taken").forEach((place) => place.remove());
    for (const each of taken) {
      const input = find(table, each.row, each.column);
      if (!input) continue;
      if (!input.value) input.placeholder = each.text;
      else {
        const words = document.createElement("p");
        words.className = "grid-taken";
        words.textContent = each.text;
        input.closest("td").append(words);
      }
    }
    table.querySelectorAll("td").forEach((cell) => cell.classList.remove("grid-wrong", "grid-doubt"));
    table.querySelectorAll("[aria-invalid]").forEach((input) => input.removeAttribute("aria-invalid"));
    for (const problem of problems) {
      const input = find(table, problem.row, problem.column);
      if (!input) continue;
      const cell = input.closest("td");
      cell.classList.add(problem.doubt ? "grid-doubt" : "grid-wrong");
      input.setAttribute("aria-invalid", "true");
      const words = document.createElement("p");
      words.className = "grid-problem";
      words.append(`${problem.text} `);
      for (const cure of problem.cures || []) {
        const button = document.createElement("button");
        button.type = "button";
        button.className = "grid-cure";
        button.dataset.gridCure = cure;
        button.textContent = cure;
        words.append(button);
      }
      cell.append(words);
    }
  };
  const find = (table, row, column) =>
    table.querySelector(`tr[data-row="${CSS.escape(row)}"] input[data-column="${CSS.escape(column)}"]`);
  // Two answers to one cell stand under it until one is chosen or another is typed.
  const settle = (input) =>
    input
      .closest("td")
      .querySelectorAll(".grid-clash")
      .forEach((each) => each.remove());
  const clash = (table, conflict) => {
    const input = find(table, conflict.row, conflict.column);
    if (!input) return;
    settle(input);
    input.dataset.seen = conflict.theirs;
    const words = document.createElement("p");
    words.className = "grid-problem grid-clash";
    words.append(`Somebody typed “${conflict.theirs}” meanwhile, you “${conflict.mine}”. `);
    for (const text of [conflict.theirs, conflict.mine]) {
      const button = document.createElement("button");
      button.type = "button";
      button.className = "grid-cure";
      button.dataset.gridCure = text;
      button.textContent = text || "empty";
      words.append(button);
    }
    input.closest("td").append(words);
  };

  // Changing a cell.
  const put = (input, text, { undoable = true } = {}) => {
    const table = input.closest("table");
    const before = seen(input);
    input.value = text;
    if (text === before) return;
    settle(input);
    input.dataset.seen = text;
    if (undoable)
      of(table).undo.push({ row: rowOf(input).dataset.row, column: input.dataset.column, text: before });
    queue(table, {
      op: "cell",
      row: rowOf(input).dataset.row,
      column: input.dataset.column,
      text,
      seen: before,
    });
  };
  const leave = (input) => put(input, input.value.trim());

  const add = (table, after) => {
    const pattern = table.closest(".bench-grid")?.querySelector("template[data-grid-row]");
    if (!pattern || table.hasAttribute("data-closed")) return null;
    const row = pattern.content.firstElementChild.cloneNode(true);
    row.dataset.row = crypto.randomUUID().slice(0, 8);
    if (after) after.after(row);
    else table.tBodies[0].append(row);
    number(table);
    queue(table, { op: "insert", row: row.dataset.row, after: after?.dataset.row || "" });
    follow(table, row);
    return row;
  };
  const number = (table) =>
    rows(table).forEach((row, index) => {
      const head = row.querySelector("th.grid-no");
      if (head) head.textContent = index + 1;
    });
  // What a row that follows mostly has: the next pin, the next temperature.
  const follow = (table, row) => {
    const all = rows(table);
    const at = all.indexOf(row);
    const value = (index, column) => {
      const input = all[index]?.querySelector(`input[data-column="${column}"]`);
      return input ? input.value.trim() : "";
    };
    if (table.dataset.section === "plugs" && at > 0) {
      const match = /^(.*?)(\d+)$/.exec(value(at - 1, "pin"));
      if (match) put(row.querySelector('input[data-column="pin"]'), `${match[1]}${Number(match[2]) + 1}`);
    }
    if (table.dataset.section === "sensors" && at > 1) {
      const pattern = /^(-?\d+(?:[.,]\d+)?)(.*)$/;
      const one = pattern.exec(value(at - 2, "celsius"));
      const two = pattern.exec(value(at - 1, "celsius"));
      if (one && two && one[2] === two[2]) {
        const step = Number(two[1].replace(",", ".")) - Number(one[1].replace(",", "."));
        const next = Number(two[1].replace(",", ".")) + step;
        if (step)
          put(row.querySelector('input[data-column="celsius"]'), `${Number(next.toFixed(4))}${two[2]}`);
      }
    }
  };
  // Where a row is begun: its first empty cell; a plug printed once is carried down, so past it.
  const start = (table, row) => {
    const all = cells(row);
    const past = table.dataset.section === "plugs" && all[1]?.value && rows(table).indexOf(row) > 0 ? 2 : 0;
    return all.slice(past).find((each) => !each.value) || all[0];
  };
  const focus = (input) => {
    input?.focus();
    input?.select();
  };
  const below = (input, step) => {
    const table = input.closest("table");
    const column = cells(rowOf(input)).indexOf(input);
    const all = rows(table);
    const at = all.indexOf(rowOf(input)) + step;
    return all[at] ? cells(all[at])[column] : null;
  };

  document.addEventListener("change", (event) => {
    if (event.target.matches?.("[data-grid] input[data-column]")) leave(event.target);
  });
  document.addEventListener("keydown", (event) => {
    const input = event.target;
    if (!input.matches?.("[data-grid] input[data-column]")) return;
    const table = input.closest("table");
    if (event.key === "Enter") {
      event.preventDefault();
      leave(input);
      let next = below(input, event.shiftKey ? -1 : 1);
      if (!next && !event.shiftKey && !table.hasAttribute("data-fixed")) {
        const row = add(table, rowOf(input));
        next = row && start(table, row);
      } else if (next && !event.shiftKey && !table.hasAttribute("data-fixed")) {
        next = start(table, rowOf(next));
      }
      focus(next);
    } else if (event.key === "ArrowDown" || event.key === "ArrowUp") {
      if (input.list && event.altKey) return;
      const next = below(input, event.key === "ArrowDown" ? 1 : -1);
      if (!next || (input.list && document.activeElement === input && input.value !== seen(input))) return;
      event.preventDefault();
      leave(input);
      focus(next);
    } else if ((event.ctrlKey || event.metaKey) && event.key.toLowerCase() === "z") {
      if (input.value !== seen(input)) return; // the browser's own undo, within a cell
      event.preventDefault();
      const last = of(table).undo.pop();
      const there = last && find(table, last.row, last.column);
      if (there) {
        put(there, last.text, { undoable: false });
        focus(there);
      }
    } else if ((event.ctrlKey || event.metaKey) && event.key.toLowerCase() === "d") {
      const above = below(input, -1);
      if (!above) return;
      event.preventDefault();
      put(input, above.value);
      focus(below(input, 1) || input);
    } else if ((event.ctrlKey || event.metaKey) && event.key === "Delete") {
      event.preventDefault();
      away(rowOf(input));
    }
  });
  // A table with its head is read as one, and shown before it counts; cells without a head fill in as is.
  const headed = (text) => {
    const [first, ...rest] = text.trim().split(/\r?\n/);
    return rest.length > 0 && !/(^|[\t;|])\s*[-+\u2212]?\d/.test(first) && /\d/.test(rest.join(""));
  };
  const understood = (table, text) => {
    const form = table.closest(".bench-grid")?.querySelector("details.paste form");
    if (!form) return false;
    form.elements.text.value = text;
    form.closest("details").open = true;
    form.requestSubmit();
    return true;
  };
  document.addEventListener("htmx:afterSettle", () => {
    const button = document.querySelector("#pasted button");
    if (button && !button.dataset.begun) {
      button.dataset.begun = "1";
      button.focus();
    }
  });
  document.addEventListener("paste", (event) => {
    const input = event.target;
    if (!input.matches?.("[data-grid] input[data-column]")) return;
    const text = event.clipboardData?.getData("text/plain") || "";
    if (!/[\t\n]/.test(text.trim())) return;
    event.preventDefault();
    const table = input.closest("table");
    if (headed(text) && understood(table, text)) return;
    const first = cells(rowOf(input)).indexOf(input);
    let row = rowOf(input);
    const lines = text.replace(/\r/g, "").replace(/\n+$/, "").split("\n");
    lines.slice(0, 200).forEach((line, index) => {
      if (index > 0) row = row.nextElementSibling || add(table, row);
      if (!row) return;
      line.split("\t").forEach((part, place) => {
        const there = cells(row)[first + place];
        if (there) put(there, part.trim().slice(0, 300));
      });
    });
  });
  const away = (row) => {
    const table = row.closest("table");
    if (table.hasAttribute("data-fixed") || table.hasAttribute("data-closed")) return;
    const next = row.nextElementSibling || row.previousElementSibling;
    queue(table, { op: "remove", row: row.dataset.row });
    row.remove();
    number(table);
    if (next) focus(cells(next)[0]);
  };
  document.addEventListener("click", (event) => {
    const cure = event.target.closest?.("[data-grid-cure]");
    if (cure) {
      const input = cure.closest("td").querySelector("input[data-column]");
      put(input, cure.dataset.gridCure);
      cure.closest(".grid-problem").remove();
      focus(input);
      return;
    }
    const gone = event.target.closest?.("[data-grid-away]");
    if (gone) away(gone.closest("tr"));
    const more = event.target.closest?.("[data-grid-add]");
    if (more) {
      const table = more.closest(".bench-grid").querySelector("[data-grid]");
      const row = add(table, rows(table).at(-1));
      if (row) focus(start(table, row));
    }
  });

  // What others typed meanwhile, every two seconds; cells one is in are left alone, and an answer that was on
  // its way while one typed is too old to be shown. A table that has gone,
  // or a page on its way, is not loaded anew: what the server says of the act would be lost with it.
  let coming = 0;
  document.addEventListener("htmx:beforeSend", () => (coming += 1));
  document.addEventListener("htmx:afterRequest", () => (coming = Math.max(0, coming - 1)));
  const refresh = async (table) => {
    const mine = of(table);
    const version = table.dataset.version;
    const late = () => mine.busy || mine.queue.length || coming || version !== table.dataset.version;
    if (document.hidden || late()) return;
    try {
      const answer = await fetch(`${table.dataset.rows}&seen=${table.dataset.version}`);
      const told = await answer.json();
      if (!answer.ok || !told.rows || late() || !table.isConnected) return;
      const known = new Set(rows(table).map((row) => row.dataset.row));
      if (told.rows.length !== known.size || told.rows.some((row) => !known.has(row.key))) {
        if (!table.contains(document.activeElement)) window.location.reload();
        return;
      }
      for (const row of told.rows) {
        for (const input of cells(table.querySelector(`tr[data-row="${CSS.escape(row.key)}"]`))) {
          const text = row[input.dataset.column] || "";
          const typing = input === document.activeElement && input.value !== seen(input);
          if (!typing && text !== seen(input)) {
            input.value = text;
            input.dataset.seen = text;
          }
        }
      }
      table.dataset.version = told.version;
      mark(table, told.problems || [], told.taken || []);
      document.body.dispatchEvent(new CustomEvent("side"));
    } catch {
      // Tried again in two seconds.
    }
  };
  setInterval(() => tables().forEach(refresh), 2000);

  // What was typed and not taken before the page went is sent now.
  const resume = () =>
    tables().forEach((table) => {
      if (table.dataset.begun) return;
      table.dataset.begun = "1";
      try {
        const left = JSON.parse(localStorage.getItem(store(table)) || "[]");
        if (left.length) {
          of(table).queue = left;
          for (const edit of left) {
            const input = edit.op === "cell" && find(table, edit.row, edit.column);
            if (input) {
              input.value = edit.text;
              input.dataset.seen = edit.text;
            }
          }
          send(table);
        }
      } catch {
        // Nothing kept.
      }
      const first = table.querySelector("input[data-column]");
      if (!first && !table.hasAttribute("data-fixed") && !table.hasAttribute("data-closed")) {
        const row = add(table, null);
        if (row && !document.activeElement.matches("input, textarea, select")) focus(cells(row)[0]);
      } else if (first && document.activeElement === document.body) {
        const blank = [...table.querySelectorAll("input[data-column]")].find((each) => !each.value);
        focus(("fixed" in table.dataset && blank) || first);
      }
    });
  document.addEventListener("DOMContentLoaded", resume);
  document.addEventListener("htmx:load", resume);
})();
