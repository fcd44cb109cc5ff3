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
})();
