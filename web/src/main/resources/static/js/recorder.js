"use strict";
// The recorder page: columns moved by dragging, and the trend under the rows.
(() => {
  let plot = null;

  function movable() {
    const columns = document.getElementById("columns");
    if (!columns || columns.dataset.may !== "true" || columns.dataset.sortable) return;
    columns.dataset.sortable = "yes";
    Sortable.create(columns, {
      draggable: "th", animation: 120, filter: ".add",
      onEnd: (event) => {
        if (event.oldDraggableIndex === event.newDraggableIndex) return;
        htmx.ajax("post", `${columns.dataset.move}/columns/${event.oldDraggableIndex}/move`,
          { target: "#design", swap: "outerHTML", values: { to: event.newDraggableIndex, seen: columns.dataset.seen } });
      },
    });
  }

  function colour(name) {
    return getComputedStyle(document.documentElement).getPropertyValue(name).trim();
  }

  async function trend() {
    const section = document.getElementById("trend");
    if (!section || document.hidden) return;
    const column = document.getElementById("trend-column").value, line = document.getElementById("trend-line")?.value ?? "0";
    const note = document.getElementById("trend-note");
    try {
      const answer = await ask(`${section.dataset.url}?column=${encodeURIComponent(column)}&line=${line}`);
      if (answer?.ok) draw(section, column, line, note, await answer.json());
    } catch (away) { note.textContent = "The application does not answer at the moment."; }
  }

  function draw(section, column, line, note, data) {
    const place = document.getElementById("rows-plot");
    note.textContent = data.problem || `the last ${data.times.length} rows, refreshed every 5 s`;
    if (plot && plot.of === column + line) { plot.setData([data.times, data.values]); return; }
    if (plot) plot.destroy();
    const axis = { stroke: colour("--quiet"), grid: { stroke: colour("--line"), width: 1 }, ticks: { stroke: colour("--line") }, font: "12px Atkinson Hyperlegible Mono" };
    const zone = section.dataset.zone;
    const clock = (fields) => { const text = new Intl.DateTimeFormat("en-GB", { timeZone: zone, hourCycle: "h23", ...fields }); return (seconds) => text.format(new Date(seconds * 1000)); };
    const hands = { hour: "2-digit", minute: "2-digit" };
    const toSecond = clock({ ...hands, second: "2-digit" }), toMinute = clock(hands), toDay = clock({ day: "2-digit", month: "short", ...hands });
    const times = (u, splits) => splits.map(splits.length > 1 && splits[1] - splits[0] < 60 ? toSecond : splits.at(-1) - splits[0] < 86400 ? toMinute : toDay);
    plot = new uPlot({
      tzDate: (seconds) => uPlot.tzDate(new Date(seconds * 1000), zone),
      width: place.clientWidth - 10, height: 210, legend: { show: true },
      padding: [null, 36, null, null], scales: { x: { time: true } }, axes: [{ ...axis, values: times, space: 90 }, { ...axis, size: 70 }],
      series: [{ label: "time", value: (u, seconds) => seconds === null || seconds === undefined ? "" : clock({ day: "2-digit", month: "short", ...hands, second: "2-digit" })(seconds) }, { label: column, stroke: colour("--pine"), width: 1.6, points: { show: data.times.length < 60 } }],
    }, [data.times, data.values], place);
    plot.of = column + line;
  }

  document.addEventListener("DOMContentLoaded", () => {
    movable();
    ["trend-column", "trend-line"].forEach((id) => document.getElementById(id)?.addEventListener("change", trend));
    trend();
    setInterval(trend, 5000);
  });
  document.addEventListener("htmx:afterSwap", movable);
  // A table or file that was found goes into its field, which saves itself.
  document.addEventListener("click", (event) => {
    const choice = event.target.closest("[data-choose]");
    if (!choice) return;
    const field = document.getElementById(choice.dataset.choose);
    field.value = choice.dataset.value;
    field.dispatchEvent(new Event("change", { bubbles: true }));
  });
  window.addEventListener("resize", () => plot && plot.setSize({ width: document.getElementById("rows-plot").clientWidth - 10, height: 210 }));
})();
