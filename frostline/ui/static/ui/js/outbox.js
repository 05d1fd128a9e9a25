// No tap is lost: what is tapped while something else is on its way, or without a connection, waits on
// this device (IndexedDB), survives a reload, and is sent in the order it was made, each once. What the
// server asks about before it keeps an entry is asked here; the rest waits for the answer.
(() => {
  "use strict";
  const RETRY = 5000;
  const NAME = "outbox";
  let busy = false; // a page or an entry is on its way
  let sending = false; // the outbox is being sent
  let again = false; // something was kept since the sending looked for the last time
  let asked = null; // the entry the server asks about
  let count = 0;

  const database = new Promise((resolve, reject) => {
    const request = indexedDB.open("frostline", 1);
    request.onupgradeneeded = () =>
      request.result.createObjectStore(NAME, { keyPath: "number", autoIncrement: true });
    request.onsuccess = () => resolve(request.result);
    request.onerror = () => reject(request.error);
  });
  const inStore = async (mode, work) => {
    const held = (await database).transaction(NAME, mode);
    const asking = work(held.objectStore(NAME));
    return new Promise((resolve, reject) => {
      held.oncomplete = () => resolve(asking.result);
      held.onerror = () => reject(held.error);
    });
  };
  const who = () => document.getElementById("page")?.dataset.who ?? "";
  const mine = async () =>
    (await inStore("readonly", (store) => store.getAll())).filter((entry) => entry.who === who());

  const tell = (text, bad = false) => {
    let note = document.getElementById("outbox");
    if (!note) {
      note = document.createElement("p");
      note.id = "outbox";
      note.setAttribute("role", "status");
      document.body.append(note);
    }
    note.className = bad ? "outbox outbox-bad" : "outbox";
    note.hidden = !text;
    note.textContent = text;
    return note;
  };
  const leaveOut = async () => {
    const gone = asked;
    asked = null;
    await inStore("readwrite", (store) => store.delete(gone.number));
    count = (await mine()).length;
    told(false);
    if (count) send();
    else refresh();
  };
  const refresh = () =>
    window.htmx.ajax("GET", location.href, { target: "#page", select: "#page", swap: "outerHTML" });
  const told = (offline) => {
    mine().then((detail) => document.dispatchEvent(new CustomEvent("frostline:waiting", { detail })));
    const entries = count === 1 ? "1 entry" : `${count} entries`;
    if (!count) tell("");
    else if (asked) {
      const behind = count - 1;
      const waits = behind ? ` ${behind === 1 ? "1 entry waits" : `${behind} entries wait`} behind it.` : "";
      const button = document.createElement("button");
      button.type = "button";
      button.className = "outbox-out";
      button.textContent = "Leave it out";
      button.addEventListener("click", leaveOut);
      tell(`A question first.${waits} `).append(button);
    } else if (offline) tell(`No connection: ${entries} kept on this device, sent when it is back.`, true);
    else tell(`${entries} not sent yet.`);
  };

  const isEntry = (form) =>
    form.method === "post" && form.elements.namedItem("slip_id") && form.elements.namedItem("kind");
  const used = new Map(); // what has gone out under each id from this page

  const entryOf = (form, submitter) => {
    const data = new FormData(form, submitter ?? undefined);
    const fields = [...data.entries()].filter(
      ([name, value]) => name !== "csrfmiddlewaretoken" && typeof value === "string",
    );
    const told = fields.filter(([name]) => name !== "made_at");
    const content = JSON.stringify(told);
    const id = data.get("slip_id");
    if (used.get(id) === content) return null; // the same tap twice
    if (used.has(id) && asked?.id !== id) {
      // Another answer on a form that has gone out already: an entry of its own.
      const fresh = crypto.randomUUID();
      const field = told.find(([name]) => name === "slip_id");
      field[1] = fresh;
      used.set(fresh, content);
      return { id: fresh, fields: told };
    }
    used.set(id, content);
    return { id, fields: told };
  };

  const keep = async (url, entry, submitter) => {
    count += 1;
    told(!navigator.onLine);
    const answered = asked && asked.id === entry.id;
    // What is answered was made when it was made, unless the answer is that it is so now.
    const made = answered && submitter?.name !== "made_at" ? asked.made : new Date().toISOString();
    const kept = { id: entry.id, url, who: who(), fields: [...entry.fields, ["made_at", made]] };
    if (answered) {
      kept.number = asked.number; // the answered one takes its own place
      asked = null;
    }
    await inStore("readwrite", (store) => store.put(kept));
    count = (await mine()).length;
    told(!navigator.onLine);
    send();
  };

  // One entry: true when it is kept, "ask" when the page that asks about it is shown, false when nothing
  // answers.
  const post = async (entry) => {
    const token = document.querySelector("input[name=csrfmiddlewaretoken]")?.value ?? "";
    const response = await fetch(entry.url, {
      method: "POST",
      body: new URLSearchParams(entry.fields),
      headers: { "X-CSRFToken": token, "HX-Request": "true", "HX-Boosted": "true" },
    }).catch(() => null);
    if (!response || response.status >= 500) return false;
    if (response.ok && !response.url.includes("/people/sign-in/")) return true;
    if (response.url.includes("/people/sign-in/") || response.status === 403) return false;
    const page = await response.text();
    asked = {
      id: entry.id,
      number: entry.number,
      made: entry.fields.find(([name]) => name === "made_at")[1],
    };
    used.delete(entry.id);
    window.htmx.swap("#page", page, { swapStyle: "outerHTML" }, { select: "#page" });
    return "ask";
  };

  const send = async () => {
    again = sending;
    if (sending || busy || asked) return;
    sending = true;
    let done = 0;
    let offline = false;
    try {
      for (;;) {
        const [entry] = await mine();
        if (!entry) break;
        const kept = await post(entry);
        if (!kept) {
          offline = true;
          break;
        }
        if (kept === "ask") break; // it stays until it is answered, or left out
        await inStore("readwrite", (store) => store.delete(entry.number));
        count -= 1;
        done += 1;
        told(false);
      }
    } finally {
      sending = false;
      count = (await mine()).length;
      told(offline);
    }
    if (done && !asked && !offline) refresh();
    if (again && count) send();
  };

  document.addEventListener(
    "submit",
    (event) => {
      const form = event.target;
      if (!isEntry(form)) return;
      const answers = asked && form.elements.namedItem("slip_id").value === asked.id;
      if (!busy && !sending && !count && !answers && navigator.onLine) {
        const entry = entryOf(form, event.submitter);
        if (!entry) event.preventDefault();
        return; // htmx sends it
      }
      event.preventDefault();
      event.stopImmediatePropagation();
      const entry = entryOf(form, event.submitter);
      if (entry) keep(form.action, entry, event.submitter);
      document.dispatchEvent(new CustomEvent("frostline:kept", { detail: form }));
    },
    true,
  );

  const boosted = (event) => event.detail.target?.id === "page";
  document.addEventListener("htmx:beforeRequest", (event) => {
    if (boosted(event)) busy = true;
  });
  for (const name of [
    "htmx:afterSettle",
    "htmx:swapError",
    "htmx:responseError",
    "htmx:timeout",
    "htmx:abort",
  ])
    document.addEventListener(name, (event) => {
      if (!boosted(event) && event.target?.id !== "page") return;
      busy = false;
      used.clear();
      send();
    });
  document.addEventListener("htmx:sendError", (event) => {
    if (!boosted(event)) return;
    busy = false;
    const form = event.detail.elt;
    if (!(form instanceof HTMLFormElement) || !isEntry(form)) return;
    const parameters = event.detail.requestConfig.parameters;
    const fields = Object.entries(parameters).flatMap(([name, value]) =>
      (Array.isArray(value) ? value : [value]).map((each) => [name, String(each)]),
    );
    const told = fields.filter(([name]) => name !== "csrfmiddlewaretoken" && name !== "made_at");
    keep(form.action, { id: parameters.slip_id, fields: told });
  });
  window.addEventListener("online", send);
  setInterval(() => count && send(), RETRY);
  mine().then((waiting) => {
    count = waiting.length;
    told(false);
    send();
  });
})();
