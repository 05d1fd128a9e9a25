// The paper beside the rows: pages stepped through, made larger, moved by dragging; the corners of a table
// dragged on a page; a table as read, looked over cell by cell.
(() => {
  "use strict";
  const kept = (key, value) => {
    try {
      if (value === undefined) return JSON.parse(sessionStorage.getItem(key) || "null");
      sessionStorage.setItem(key, JSON.stringify(value));
    } catch {
      // A browser that keeps nothing begins anew.
    }
    return null;
  };

  // Pages.
  const pages = (paper) => [...paper.querySelectorAll("[data-paper-page]")];
  const shown = (paper) => pages(paper).find((page) => !page.hidden);
  const key = (paper) => `frost-paper:${paper.dataset.paper}`;
  const remember = (paper) => {
    const page = shown(paper);
    const view = page?.querySelector(".paper-view");
    if (!view) return;
    kept(key(paper), {
      page: page.dataset.paperPage,
      wide: view.firstElementChild.style.width,
      left: view.scrollLeft,
      top: view.scrollTop,
    });
  };
  const show = (paper, page) => {
    for (const each of pages(paper)) each.hidden = each !== page;
    const at = paper.querySelector("[data-paper-at]");
    if (at) at.textContent = `${pages(paper).indexOf(page) + 1} of ${pages(paper).length}`;
  };
  const zoom = (paper, factor) => {
    const view = shown(paper)?.querySelector(".paper-view");
    if (!view) return;
    const picture = view.firstElementChild;
    const now = picture.getBoundingClientRect().width / view.clientWidth;
    const next = Math.min(8, Math.max(1, now * factor));
    const across = (view.scrollLeft + view.clientWidth / 2) / view.scrollWidth;
    const down = (view.scrollTop + view.clientHeight / 2) / view.scrollHeight;
    picture.style.width = `${Math.round(next * 100)}%`;
    view.scrollLeft = across * view.scrollWidth - view.clientWidth / 2;
    view.scrollTop = down * view.scrollHeight - view.clientHeight / 2;
    remember(paper);
  };
  const begin = () =>
    document.querySelectorAll("[data-paper]").forEach((paper) => {
      if (paper.dataset.begun) return;
      paper.dataset.begun = "1";
      const last = kept(key(paper));
      const page = last && pages(paper).find((each) => each.dataset.paperPage === last.page);
      if (!page) return;
      show(paper, page);
      const view = page.querySelector(".paper-view");
      view.firstElementChild.style.width = last.wide || "";
      view.scrollLeft = last.left;
      view.scrollTop = last.top;
    });
  let held = null;
  document.addEventListener("pointerdown", (event) => {
    const view = event.target.closest?.(".paper-view");
    if (!view || event.pointerType === "touch") return; // a finger scrolls by itself
    held = { view, x: event.clientX, y: event.clientY, left: view.scrollLeft, top: view.scrollTop };
    event.preventDefault();
    view.focus();
  });
  document.addEventListener("pointermove", (event) => {
    if (!held) return;
    held.view.scrollLeft = held.left - (event.clientX - held.x);
    held.view.scrollTop = held.top - (event.clientY - held.y);
  });
  document.addEventListener("pointerup", () => {
    if (held) remember(held.view.closest("[data-paper]"));
    held = null;
  });
  document.addEventListener(
    "scrollend",
    (event) => {
      const paper = event.target.closest?.("[data-paper]");
      if (paper) remember(paper);
    },
    true,
  );

  // Corners.
  const marks = (svg) => [...svg.querySelectorAll("[data-mark]")];
  const place = (svg) => {
    const corners = marks(svg).map((mark) => [mark.cx.baseVal.value, mark.cy.baseVal.value]);
    svg.querySelector("[data-quad]").setAttribute("points", corners.map((each) => each.join(",")).join(" "));
    const told = JSON.stringify(corners.map((each) => each.map((at) => Math.round(at * 10) / 10)));
    const button = document.querySelector("[data-dragged]");
    if (button) button.value = told;
  };
  const put = (svg, mark, x, y) => {
    const box = svg.viewBox.baseVal;
    mark.setAttribute("cx", Math.min(box.width, Math.max(0, x)));
    mark.setAttribute("cy", Math.min(box.height, Math.max(0, y)));
    place(svg);
  };
  const corners = () =>
    document.querySelectorAll("svg[data-corners]").forEach((svg) => {
      if (svg.dataset.begun) return;
      svg.dataset.begun = "1";
      JSON.parse(svg.dataset.corners).forEach(([x, y], number) => put(svg, marks(svg)[number], x, y));
      const own = document.querySelector("[data-own]");
      const turn = () => svg.classList.toggle("reading-found", !own.open);
      own.addEventListener("toggle", turn);
      turn();
    });
  let dragged = null;
  document.addEventListener("pointerdown", (event) => {
    const mark = event.target.closest?.("[data-mark]");
    if (mark) {
      dragged = mark;
      mark.setPointerCapture(event.pointerId);
      mark.focus();
      event.preventDefault();
      return;
    }
    const picked = event.target.closest?.("[data-pick]");
    if (picked) {
      const button = document.querySelector(`[data-table="${CSS.escape(picked.dataset.pick)}"]`);
      button.form.requestSubmit(button);
    }
  });
  document.addEventListener("pointermove", (event) => {
    if (!dragged) return;
    const svg = dragged.ownerSVGElement;
    const at = new DOMPoint(event.clientX, event.clientY).matrixTransform(svg.getScreenCTM().inverse());
    put(svg, dragged, at.x, at.y);
  });
  document.addEventListener("pointerup", () => {
    dragged = null;
  });
  document.addEventListener("keydown", (event) => {
    const mark = event.target.closest?.("[data-mark]");
    const ways = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1] };
    const way = ways[event.key];
    if (!mark || !way) return;
    event.preventDefault();
    const step = event.shiftKey ? 40 : 6;
    put(
      mark.ownerSVGElement,
      mark,
      mark.cx.baseVal.value + way[0] * step,
      mark.cy.baseVal.value + way[1] * step,
    );
  });

  // A table as read.
  const settle = (input) => {
    const cell = input.closest("td");
    const right = cell.querySelector('.reading-ok input[type="checkbox"]');
    if (right) right.checked = true;
    cell.classList.remove("grid-doubt");
    input.removeAttribute("data-open");
    input.removeAttribute("aria-invalid");
  };
  const next = (form) =>
    form.querySelector("input[data-open]") ||
    form.querySelector("input[data-compared]:not(:checked)") ||
    form.querySelector("[data-reading-done]");
  document.addEventListener("keydown", (event) => {
    const input = event.target;
    if (event.key !== "Enter" || !input.matches?.('[data-reading] td > input[type="text"]')) return;
    event.preventDefault();
    settle(input);
    const there = next(input.form);
    there.focus();
    there.select?.();
  });
  document.addEventListener("change", (event) => {
    const input = event.target;
    if (input.matches?.('[data-reading] td > input[type="text"]')) settle(input);
    if (input.matches?.("[data-compared]") && input.checked) next(input.form).focus();
    if (input.matches?.('.reading-ok input[type="checkbox"]') && input.checked)
      settle(input.closest("td").querySelector('input[type="text"]'));
  });

  document.addEventListener("click", (event) => {
    const step = event.target.closest?.("[data-paper-step]");
    if (step) {
      const paper = step.closest("[data-paper]");
      const all = pages(paper);
      const at = all.indexOf(shown(paper)) + Number(step.dataset.paperStep);
      show(paper, all[(at + all.length) % all.length]);
      remember(paper);
    }
    const larger = event.target.closest?.("[data-paper-zoom]");
    if (larger) zoom(larger.closest("[data-paper]"), Number(larger.dataset.paperZoom));
    const other = event.target.closest?.("[data-reading-other]");
    if (other) {
      const input = other.closest("td").querySelector('input[type="text"]');
      input.value = other.textContent;
      settle(input);
      input.focus();
    }
  });
  const all = () => {
    begin();
    corners();
    document.querySelector(".primary[data-table]")?.focus();
    const form = document.querySelector("[data-reading]");
    if (form && !form.dataset.begun) {
      form.dataset.begun = "1";
      const there = document.querySelector("#pasted button") || next(form);
      there.focus();
      there.select?.();
    }
  };
  document.addEventListener("DOMContentLoaded", all);
  document.addEventListener("htmx:load", all);
})();
