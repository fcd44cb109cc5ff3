"use strict";
// What a page asks the application for: two requests under way at most, edits of one part of the page one after the other
// and before what refreshes itself, and no edit that is heard by nobody. Loaded before anything else, so that it hears what
// happens before the other scripts are there.
(() => {
  const MOST = 2, AGAIN_MILLIS = 3000;
  const underWay = new Map(), waiting = [], kept = new Map(), early = [];
  let ready = false, typing = null;

  const refreshes = (detail) => detail.verb === "get" && !detail.triggeringEvent && (detail.elt.getAttribute("hx-trigger") || "").includes("every");

  // An edit waits for the edit of the same part that was made before it: it is made on what that one leaves.
  const mayGo = (part) => underWay.size < MOST && (!part || ![...underWay.values()].includes(part));
  const done = (request) => {
    underWay.delete(request);
    for (let next; (next = waiting.findIndex((each) => mayGo(each.part))) >= 0;) {
      const edit = waiting.splice(next, 1)[0];
      if (edit.form.isConnected) edit.send();
      else say(document.querySelector("main"), "What you changed last is not saved: its part of the page was replaced meanwhile. Change it again.");
    }
    drawKept();
  };

  // Each page that is loaded has a name of its own, so that an edit from another window of the same person is told from one of this page.
  const page = Math.random().toString(36).slice(2) + Date.now().toString(36);
  document.addEventListener("htmx:configRequest", (event) => { event.detail.headers["X-Page"] = page; });

  // A page's own fetches pass here, too. Gives nothing back where others are under way: the caller asks again later. Who reads an answer while it
  // comes gives how, and others wait until it is read.
  window.ask = async (address, read, signal) => {
    if (document.hidden || underWay.size > 0) return null;
    const mark = {};
    underWay.set(mark, "");
    try {
      const answer = await fetch(address, { headers: { "HX-Request": "true" }, signal });
      if (answer.ok && read) await read(answer.body);
      return answer;
    } finally { done(mark); }
  };

  const partOf = (detail) => detail.verb === "get" ? "" : detail.target?.id || "";
  document.addEventListener("htmx:confirm", (event) => {
    const detail = event.detail, part = partOf(detail);
    if (refreshes(detail)) {
      if (document.hidden || underWay.size > 0) event.preventDefault();
    } else if (!mayGo(part) || part && waiting.some((each) => each.part === part)) {
      event.preventDefault();
      waiting.push({ part, form: detail.elt, send: () => detail.issueRequest(true) });
    }
  });
  document.addEventListener("htmx:beforeSend", (event) => {
    const request = event.detail.xhr, { verb } = event.detail.requestConfig;
    underWay.set(request, partOf({ verb, target: event.detail.target }));
    request.addEventListener("loadend", () => done(request));
  });

  // What an answer would draw over an edit that waits its turn or is to be sent again, or over what somebody is typing, is kept and drawn afterwards;
  // an answer that comes later takes its place.
  const changing = (part) => waiting.some((each) => part.contains(each.form)) || part.querySelector(".unsaved") || typing?.isConnected && typing === document.activeElement && part.contains(typing);
  const drawKept = () => kept.forEach((html, id) => {
    const part = document.getElementById(id);
    if (part && (changing(part) || [...underWay.values()].includes(id))) return;
    kept.delete(id);
    if (part) htmx.swap(part, html, { swapStyle: "outerHTML" });
  });
  document.addEventListener("htmx:beforeSwap", (event) => {
    const detail = event.detail, part = detail.target;
    const how = detail.swapOverride || detail.requestConfig.elt.closest("[hx-swap]")?.getAttribute("hx-swap");
    if (!detail.shouldSwap || !part?.id || how !== "outerHTML") return;
    kept.delete(part.id);
    if (!changing(part)) return;
    kept.set(part.id, detail.serverResponse);
    detail.shouldSwap = false;
  });
  document.addEventListener("input", (event) => { typing = event.target; }, true);
  document.addEventListener("change", () => { typing = null; }, true);
  document.addEventListener("focusout", () => setTimeout(drawKept));

  // Nobody listens before the page's scripts are there: what was changed or sent until then is said again afterwards.
  const listens = (target) => target.closest?.("[hx-post]");
  document.addEventListener("change", (event) => { if (!ready && listens(event.target)) early.push(["change", event.target]); }, true);
  document.addEventListener("submit", (event) => { if (!ready && listens(event.target)) { event.preventDefault(); early.push(["submit", event.target]); } }, true);
  document.addEventListener("click", (event) => {
    const button = event.target.closest?.("button[hx-get], button[hx-post]");
    if (!ready && button) early.push(["click", button]);
  }, true);
  document.addEventListener("DOMContentLoaded", () => setTimeout(() => {
    ready = true;
    document.documentElement.dataset.ready = "yes";
    early.splice(0).forEach(([kind, target]) => target.isConnected && (kind === "click" ? target.click() : target.dispatchEvent(new Event(kind, { bubbles: true, cancelable: true }))));
  }));

  const say = (place, sentence) => {
    let note = place.querySelector(":scope > .unsaved");
    if (!note) {
      note = document.createElement("p");
      note.className = "unsaved field-problem";
      note.setAttribute("role", "alert");
      place.append(note);
    }
    note.textContent = sentence;
  };

  // An edit that did not arrive says so where it was made, and is sent again until it is heard.
  const unheard = (event) => {
    const detail = event.detail, form = detail.elt;
    if (detail.requestConfig?.verb.toLowerCase() !== "post" || !form.isConnected) return;
    if (!form.matches("[hx-post]")) return say(document.querySelector("main"), "Not saved: the application does not answer. Load the page again when it does.");
    say(form, "Not saved yet: the application does not answer. It is sent again by itself.");
    setTimeout(() => form.isConnected && htmx.trigger(form, (form.getAttribute("hx-trigger") || "submit").split(/[ ,]/)[0]), AGAIN_MILLIS);
  };
  document.addEventListener("htmx:sendError", unheard);
  document.addEventListener("htmx:timeout", unheard);
  document.addEventListener("htmx:beforeOnLoad", (event) => event.detail.elt.querySelector?.(":scope > .unsaved")?.remove());
})();
