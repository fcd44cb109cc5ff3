"use strict";
// Cards and forms of the plant: the plot of a tag, picking a tag for a field, a file into a text.
(() => {
  const colour = (name) => getComputedStyle(document.documentElement).getPropertyValue(name).trim();
  const zone = document.documentElement.dataset.zone;
  const clock = new Intl.DateTimeFormat("en-GB", { hour: "2-digit", minute: "2-digit", second: "2-digit", timeZone: zone });
  const day = new Intl.DateTimeFormat("en-GB", { day: "2-digit", month: "short", hour: "2-digit", minute: "2-digit", timeZone: zone });

  // A plot of one curve; range gives its ends in seconds, chosen is told what was dragged over.
  const plotIn = (box, times, values, range, chosen) => {
    const axis = { stroke: colour("--quiet"), grid: { stroke: colour("--line"), width: 1 }, ticks: { stroke: colour("--line") }, font: '12px "Atkinson Hyperlegible Mono"' };
    const long = range()[1] - range()[0] > 86400;
    return new uPlot({
      width: box.clientWidth, height: 220, legend: { show: false }, cursor: { y: false, drag: { x: Boolean(chosen), y: false, setScale: false } },
      scales: { x: { range } },
      axes: [{ ...axis, values: (self, ticks) => ticks.map((seconds) => (long ? day : clock).format(new Date(seconds * 1000))), space: long ? 120 : 90 }, { ...axis, size: 64 }],
      series: [{}, { stroke: colour("--pine"), width: 1.6, spanGaps: false, points: { show: false } }],
      hooks: chosen ? { setSelect: [(plot) => plot.select.width > 4 && chosen(plot.posToVal(plot.select.left, "x"), plot.posToVal(plot.select.left + plot.select.width, "x"))] } : {},
    }, [times, values], box);
  };

  const box = document.getElementById("tag-plot");
  if (box) {
    let plot = null;
    const draw = async () => {
      if (!document.hidden) {
        try {
          const answer = await ask(box.dataset.plot);
          if (answer?.ok) {
            const { times, values } = await answer.json();
            if (!plot) plot = plotIn(box, times, values, () => [Date.now() / 1000 - 600, Date.now() / 1000]);
            else plot.setData([times, values]);
          }
        } catch (away) { /* asked again */ }
      }
      setTimeout(draw, 2000);
    };
    draw();
  }

  // The history of the archive: drawn when it is there; dragging zooms, buttons go back and forth.
  const look = (from, to) => {
    const field = document.getElementById("window"), iso = (seconds) => new Date(Math.round(seconds * 1000)).toISOString().replace(".000", "");
    field.value = `${iso(from)} to ${iso(to)}`;
    field.dispatchEvent(new Event("input", { bubbles: true }));
    htmx.trigger("#history-form", "submit");
  };
  document.addEventListener("htmx:afterSwap", async (event) => {
    const past = event.target.querySelector?.("[data-history-plot]");
    if (!past) return;
    const ends = [past.dataset.from / 1000, past.dataset.to / 1000];
    let answer = null;
    while (past.isConnected && !(answer = await ask(past.dataset.historyPlot))) await new Promise((soon) => setTimeout(soon, 150));
    if (answer?.ok && past.isConnected) {
      const { times, values } = await answer.json();
      plotIn(past, times, values, () => ends, look);
    } else if (past.isConnected) past.textContent = "The archive did not answer; ask again.";
  });
  document.addEventListener("click", (event) => {
    const step = event.target.closest("[data-history-step]");
    if (!step) return;
    const { from, to } = document.querySelector("[data-history-plot]").dataset, a = from / 1000, b = to / 1000, length = b - a;
    if (step.dataset.historyStep === "earlier") look(a - length, a);
    if (step.dataset.historyStep === "later") look(b, b + length);
    if (step.dataset.historyStep === "wider") look(a - length / 2, b + length / 2);
  });

  // A value that was entered is looked at where it stands now.
  document.addEventListener("htmx:afterSettle", () => {
    const entered = document.querySelector("#by-hand [data-around]:not([data-seen])");
    if (!entered) return;
    entered.dataset.seen = "yes";
    const [from, to] = entered.dataset.around.split(" to ").map((end) => Date.parse(end) / 1000);
    look(from, to);
  });

  // A picked tag goes where its list says: as a row of inputs, or into the field beside it.
  document.addEventListener("click", (event) => {
    const pick = event.target.closest(".pick");
    if (pick && !["trend", "query"].includes(pick.closest(".picks").dataset.into)) {
      const list = pick.closest(".picks");
      if (list.dataset.into === "inputs") {
        const rows = document.querySelector("#inputs tbody"), taken = new Set([...rows.querySelectorAll("[name=input-name]")].map((field) => field.value));
        let name = pick.dataset.name;
        for (let n = 2; taken.has(name); n++) name = pick.dataset.name + n;
        const row = document.createElement("tr");
        row.innerHTML = `<td><input class="form-control form-control-sm mono" name="input-name" aria-label="Name in the formula"></td><td><input type="hidden" name="input-tag"><span></span></td><td><button type="button" class="btn btn-link btn-sm danger" data-drop-input>Remove</button></td>`;
        row.querySelector("[name=input-name]").value = name;
        row.querySelector("[name=input-tag]").value = pick.dataset.key;
        row.querySelector("span").textContent = pick.dataset.tag;
        rows.append(row);
        const formula = document.getElementById("f-formula");
        if (!formula.value.trim()) formula.value = name;
      } else {
        const cell = list.closest("[data-pick-cell]");
        cell.querySelector("[data-picked]").value = pick.dataset.key;
        cell.querySelector("[data-picked-name]").textContent = pick.dataset.tag;
      }
      list.replaceChildren();
      const field = list.parentElement.querySelector("input[type=search]");
      if (field) field.value = "";
      document.getElementById("f-formula")?.dispatchEvent(new Event("input", { bubbles: true }));
    }
    if (event.target.closest("[data-drop-input]")) {
      event.target.closest("tr").remove();
      document.getElementById("f-formula")?.dispatchEvent(new Event("input", { bubbles: true }));
    }
    const clear = event.target.closest("[data-clear-pick]");
    if (clear) {
      const cell = clear.closest("[data-pick-cell]");
      cell.querySelector("[data-picked]").value = "";
      cell.querySelector("[data-picked-name]").textContent = "";
    }
  });

  document.addEventListener("change", async (event) => {
    if (event.target.matches("input[type=file][data-into]") && event.target.files[0]) {
      document.getElementById(event.target.dataset.into).value = await event.target.files[0].text();
    }
  });
})();
