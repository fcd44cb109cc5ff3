"use strict";
// The tag list: live values every second, small plots, ticks.
(() => {
  const PLOT_SECONDS = 300, WIDTH = 150, HEIGHT = 22;

  function path(points) {
    const values = points.map((point) => point[1]).filter((value) => value !== null);
    if (values.length < 2) return "";
    const low = Math.min(...values), high = Math.max(...values), span = high - low;
    let pen = "M", drawn = "";
    for (const [ago, value] of points) {
      if (value === null) { pen = "M"; continue; }
      const x = WIDTH - Math.min(ago, PLOT_SECONDS) / PLOT_SECONDS * WIDTH;
      const y = span === 0 ? HEIGHT / 2 : HEIGHT - 2 - (value - low) / span * (HEIGHT - 4);
      drawn += `${pen}${x.toFixed(1)} ${y.toFixed(1)}`;
      pen = "L";
    }
    return drawn;
  }

  function show(row, live) {
    const part = (name) => row.querySelector(`[data-part=${name}]`);
    const set = (element, text) => { if (element.textContent !== text) element.textContent = text; };
    set(part("value"), live.value);
    part("value").title = live.sourceTime;
    set(part("age"), live.age);
    set(part("quality"), live.sentence);
    part("quality").title = live.sentence;
    part("quality").className = `quality ${live.quality}`;
    row.classList.toggle("stale", live.quality === "bad");
    const plot = part("plot");
    if (plot) {
      if (!plot.firstChild) plot.append(document.createElementNS("http://www.w3.org/2000/svg", "path"));
      plot.firstChild.setAttribute("d", path(live.plot));
    }
  }

  async function refresh() {
    const table = document.querySelector("table.tags");
    if (table && !document.hidden) {
      try {
        const answer = await fetch(table.dataset.values, { headers: { "HX-Request": "true" } });
        if (answer.status === 401) { location.href = "/sign-in"; return; }
        if (answer.ok) {
          const rows = new Map([...table.querySelectorAll("tr[data-key]")].map((row) => [row.dataset.key, row]));
          for (const live of await answer.json()) if (rows.has(live.key)) show(rows.get(live.key), live);
        }
      } catch (away) { /* the application is away for a moment; the next round asks again */ }
    }
    setTimeout(refresh, 1000);
  }

  // Ticks outlive the finder: a ticked tag that is not in view travels in a hidden field.
  const ticked = new Set();

  function ticks() {
    const note = document.getElementById("ticked"), form = document.getElementById("tag-form");
    if (!form) return;
    form.querySelectorAll("input[type=hidden][name=tag]").forEach((field) => field.remove());
    const shown = new Set();
    form.querySelectorAll("tr[data-key] input[name=tag]").forEach((box) => {
      shown.add(box.value);
      if (box.checked) ticked.add(box.value); else ticked.delete(box.value);
    });
    const hidden = [...ticked].filter((key) => !shown.has(key));
    for (const key of hidden) form.append(Object.assign(document.createElement("input"), { type: "hidden", name: "tag", value: key }));
    note.textContent = !ticked.size ? "" : `${ticked.size} ticked${hidden.length ? `, ${hidden.length} of them not in view` : ""}`;
  }

  document.addEventListener("htmx:afterSwap", (event) => {
    if (event.detail.target?.id !== "tags") return;
    document.querySelectorAll("tr[data-key] input[name=tag]").forEach((box) => { box.checked = ticked.has(box.value); });
    ticks();
  });

  document.addEventListener("change", (event) => {
    if (event.target.id === "tick-all") document.querySelectorAll("tr[data-key] input[name=tag]").forEach((box) => { box.checked = event.target.checked; });
    ticks();
  });
  document.addEventListener("DOMContentLoaded", refresh);
})();
