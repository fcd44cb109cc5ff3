// Lines of a query: a tag that is picked is added, and Enter in a line asks.
(() => {
  document.addEventListener("click", (event) => {
    const pick = event.target.closest(".picks[data-into=query] .pick");
    if (!pick) return;
    const field = document.getElementById("add-tag");
    field.value = pick.dataset.key;
    field.dispatchEvent(new Event("picked"));
  });
  document.addEventListener("keydown", (event) => {
    if (event.key !== "Enter" || !event.target.matches("#query-lines input:not([type=checkbox])")) return;
    event.preventDefault();
    event.target.dispatchEvent(new Event("change", { bubbles: true }));
    document.getElementById("ask").click();
  });

  // A grid of any length: only rows about to be seen are in the page, between two rows as high as all that are not.
  const HIGH = 30, BLOCK = 100;
  const standing = () => { const at = document.querySelector("#answer-standing [data-count]"); return at ? { count: Number(at.dataset.count), done: at.dataset.done === "true" } : { count: 0, done: true }; };
  const cells = (row, numeric) => { const line = document.createElement("tr"); row.forEach((text, index) => { const cell = document.createElement("td"); cell.className = "mono" + (text === "NULL" ? " quiet" : "") + (numeric[index] ? " num" : ""); cell.textContent = text; line.append(cell); }); return line; };
  const grids = new WeakMap();
  const fill = async (box) => {
    const grid = grids.get(box), { count } = standing();
    if (!grid || count <= BLOCK) return;
    const first = Math.max(0, Math.floor(box.scrollTop / HIGH / BLOCK) - 1), last = Math.min(Math.ceil(count / BLOCK), first + 3 + Math.ceil(box.clientHeight / HIGH / BLOCK));
    for (let block = first; block < last; block++) {
      const held = grid.blocks.get(block);
      if (held && (held.length === BLOCK || block * BLOCK + held.length >= count)) continue;
      let answer = null;
      while (box.isConnected && !(answer = await ask(`/review/answers/${box.dataset.answer}/rows.json?from=${block * BLOCK}&most=${BLOCK}`).catch(() => ({ ok: false })))) await new Promise((soon) => setTimeout(soon, 60));
      if (answer?.ok) grid.blocks.set(block, (await answer.json()).rows);
      else break;
    }
    for (const block of grid.blocks.keys()) if (Math.abs(block - first) > 20) grid.blocks.delete(block);
    const body = box.querySelector("tbody"), space = (rows) => { const line = document.createElement("tr"); line.className = "grid-space"; line.style.height = rows * HIGH + "px"; return line; };
    const there = [];
    let until = first;
    for (; until < last && grid.blocks.has(until); until++) there.push(...grid.blocks.get(until));
    const shown = first * BLOCK + there.length;
    body.replaceChildren(space(first * BLOCK), ...there.map((row) => cells(row, grid.numeric)), space(Math.max(0, count - shown)));
  };
  let filling = Promise.resolve(), again = null;
  const soon = (box) => { clearTimeout(again); again = setTimeout(() => { filling = filling.then(() => fill(box)); }, 60); };
  document.addEventListener("scroll", (event) => { if (event.target.classList?.contains("answer-grid")) soon(event.target); }, true);
  document.addEventListener("htmx:afterSettle", () => {
    const box = document.querySelector(".answer-grid");
    if (!box) return;
    if (!grids.has(box)) grids.set(box, { blocks: new Map(), numeric: [...box.querySelectorAll("th")].map((head) => head.classList.contains("num")) });
    soon(box);
  });
})();
