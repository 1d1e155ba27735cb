"use strict";
(() => {
  const tip = document.getElementById("tip");
  const selects = [...document.querySelectorAll("select[data-dimension]")];
  const views = [...document.querySelectorAll(".view")].map((section) => ({
    section,
    body: section.querySelector(".body"),
    plain: [...section.querySelector(".body").childNodes],
    others: new Map([...section.querySelectorAll("template")].map((one) => [one.dataset.key, one])),
  }));

  // A sentence where the pointer rests or the keyboard stands.
  const tell = (mark, x, y) => {
    tip.textContent = mark.getAttribute("aria-label");
    tip.hidden = false;
    const box = tip.getBoundingClientRect();
    tip.style.left = Math.max(4, Math.min(x + 14, innerWidth - box.width - 6)) + "px";
    tip.style.top = Math.max(4, y + 18 + box.height > innerHeight ? y - box.height - 10 : y + 18) + "px";
  };
  const markOf = (event) => event.target.closest && event.target.closest(".mark");
  document.addEventListener("pointermove", (event) => {
    const mark = markOf(event);
    if (mark) tell(mark, event.clientX, event.clientY);
    else if (!markOf({ target: document.activeElement })) tip.hidden = true;
  });
  document.addEventListener("focusin", (event) => {
    const mark = markOf(event);
    if (!mark) { tip.hidden = true; return; }
    const box = mark.getBoundingClientRect();
    tell(mark, box.left + box.width / 2, box.top + box.height / 2);
  });
  document.addEventListener("focusout", () => { tip.hidden = true; });
  document.addEventListener("keydown", (event) => { if (event.key === "Escape") tip.hidden = true; });

  // Tables sort; totals stay at the end, and empty cells behind all others.
  document.addEventListener("click", (event) => {
    const button = event.target.closest("thead button");
    if (!button) return;
    const heading = button.closest("th"), table = heading.closest("table");
    const place = [...heading.parentNode.children].indexOf(heading), body = table.tBodies[0];
    const falls = heading.getAttribute("aria-sort") === "descending";
    const rises = heading.getAttribute("aria-sort") === "ascending";
    for (const one of heading.parentNode.children) one.setAttribute("aria-sort", "none");
    table.given = table.given || [...body.rows];
    const isName = heading.classList.contains("name");
    const order = isName ? (rises ? "descending" : falls ? "none" : "ascending") : falls ? "ascending" : rises ? "none" : "descending";
    heading.setAttribute("aria-sort", order);
    const sign = order === "ascending" ? 1 : -1;
    const rows = [...table.given];
    if (order !== "none") {
      const key = (row) => row.cells[place].dataset.sort ?? "";
      rows.sort((one, other) => {
        const total = one.classList.contains("total") - other.classList.contains("total");
        if (total) return total;
        const a = key(one), b = key(other);
        if (a === "" || b === "") return (a === "") - (b === "");
        const x = Number(a), y = Number(b);
        return sign * (Number.isNaN(x) || Number.isNaN(y) ? a.localeCompare(b) : x - y);
      });
    }
    body.append(...rows);
  });

  // What is chosen is in the address; choosing one thing lets go of the others.
  const show = (key) => {
    for (const view of views) {
      const other = view.others.get(key);
      view.body.replaceChildren(...(other ? [other.content.cloneNode(true)] : view.plain));
      // The working and the files are of the view as it was built.
      for (const one of view.section.querySelectorAll(".traces, .downloads")) one.hidden = Boolean(other);
      for (const one of view.section.querySelectorAll(".elsewhere")) one.hidden = !other;
      const name = view.section.id, heading = view.body.querySelector("h2");
      view.section.setAttribute("aria-labelledby", heading.id);
      for (const link of document.querySelectorAll(`a[data-of="${name}"]`)) {
        const finding = link.closest("li"), { tone, band } = (other ?? finding).dataset;
        link.textContent = heading.textContent;
        finding.className = `tone-${tone}`;
        finding.querySelector(".band").textContent = band;
        finding.querySelector(".compared").textContent = view.body.querySelector(".subtitle")?.textContent ?? "";
      }
    }
    // Which gates were met is of the pack as built.
    for (const one of document.querySelectorAll(".gate")) one.hidden = key !== "";
    for (const one of selects) one.value = key.startsWith(one.dataset.dimension + "=") ? key : "";
    document.body.dataset.chosen = key;
  };
  const fromAddress = () => {
    const said = decodeURIComponent(location.hash.slice(1));
    if (selects.some((one) => said.startsWith(one.dataset.dimension + "="))) show(said);
    else if (said === "") show("");
  };
  for (const one of selects) one.addEventListener("change", () => {
    const key = one.value;
    history.replaceState(null, "", key ? "#" + encodeURIComponent(key) : location.pathname + location.search);
    show(key);
  });
  addEventListener("hashchange", fromAddress);
  if (location.hash) fromAddress();
})();
