"use strict";
// One stream of the pulse for all tabs of a browser, which gives one host six connections only.
const AGAIN_MILLIS = 5000;
const ports = new Set();
let source = null, last = null;

function open() {
  source = new EventSource("/pulse");
  source.addEventListener("pulse", (event) => { last = event.data; ports.forEach((port) => port.postMessage(last)); });
  source.onerror = () => {
    if (source && source.readyState === EventSource.CLOSED) { source = null; setTimeout(() => { if (ports.size && !source) open(); }, AGAIN_MILLIS); }
  };
}

self.onconnect = (event) => {
  const port = event.ports[0];
  ports.add(port);
  port.onmessage = (message) => {
    if (message.data !== "leave") return;
    ports.delete(port);
    if (!ports.size && source) { source.close(); source = null; }
  };
  if (last) port.postMessage(last);
  if (!source) open();
};
