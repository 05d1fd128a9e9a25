// As a figure is typed its branch is lit and says what this very figure would leave; the others fade.
(() => {
  "use strict";
  const WAIT = 150;
  let timer;
  let asked = 0;
  const branches = () => [...document.querySelectorAll("li.branch[data-branch]")];
  const plain = () =>
    branches().forEach((branch) => {
      branch.classList.remove("branch-taken", "branch-fades");
      if (branch.told) branch.querySelector(".branch-leaves").replaceChildren(...branch.told);
    });
  const light = ({ number, leaves }) => {
    plain();
    const mine = branches().find((branch) => Number(branch.dataset.branch) === number);
    if (!mine) return;
    branches().forEach((branch) => branch.classList.add(branch === mine ? "branch-taken" : "branch-fades"));
    const place = mine.querySelector(".branch-leaves");
    mine.told ??= [...place.childNodes];
    place.replaceChildren(
      ...leaves.map(([name, chance]) => {
        const [line, share] = [document.createElement("span"), document.createElement("b")];
        share.textContent = chance;
        line.append(`${name} `, share);
        return line;
      }),
    );
  };
  const ask = async (form, field) => {
    const turn = ++asked;
    const query = new URLSearchParams(location.search);
    query.set("typed", field.value);
    const response = await fetch(`${form.dataset.fork}?${query}`, { credentials: "same-origin" }).catch(
      () => null,
    );
    if (response?.ok && turn === asked) light(await response.json());
  };
  document.addEventListener("input", (event) => {
    const form = event.target.form;
    if (!form?.dataset?.fork || !event.target.matches("[data-focus]")) return;
    clearTimeout(timer);
    timer = setTimeout(() => ask(form, event.target), WAIT);
  });
})();
