// One connection to the server for all windows of a browser: it has few for each host, and each window of its own would take
// one as long as it is open. Windows give a sign of life; the worker tells the server where they are, and them what comes.
// Pure parts are in shared/windows.js.
import { beaten, listed, silent } from "./shared/windows.js";

const beatEvery = 20000; // to the server, which forgets a window after a minute
const id = crypto.randomUUID();
const windows = new Map(); // port → { at, seen }
const last = new Map(); // event → data, for windows that come later
let stream = null;
let telling = 0;

self.onconnect = (e) => {
  const port = e.ports[0];
  port.onmessage = (m) => heard(port, m.data);
  port.start();
};

function heard(port, m) {
  if (m.leave) return gone([port]);
  const fresh = !windows.has(port);
  windows.set(port, beaten(windows.get(port), m, Date.now()));
  if (fresh) for (const [event, data] of last) port.postMessage({ event, data });
  if (m.at) {
    clearTimeout(telling);
    telling = setTimeout(() => send({ windows: listed([...windows.values()]) }), fresh ? 0 : 400);
  }
  connect();
}

function gone(ports) {
  const ids = ports.map((p) => windows.get(p)?.at?.window).filter(Boolean);
  for (const p of ports) windows.delete(p);
  if (ids.length) send({ gone: ids });
  if (windows.size || !stream) return;
  stream.close();
  stream = null;
  last.clear();
}

function connect() {
  if (stream) return;
  stream = new EventSource("/studio/live?" + new URLSearchParams({ window: id, shared: "1" }));
  for (const event of ["plan", "here", "lock"])
    stream.addEventListener(event, (e) => {
      if (event !== "lock") last.set(event, e.data);
      for (const port of windows.keys()) port.postMessage({ event, data: e.data });
    });
  stream.onerror = () => {
    if (stream?.readyState !== EventSource.CLOSED) return; // it tries again by itself
    stream = null;
    setTimeout(() => windows.size && connect(), 30000);
  };
}

const send = (body) =>
  fetch("/studio/live/at", {
    method: "POST",
    headers: { "Content-Type": "application/json" },
    body: JSON.stringify(body),
  }).catch(() => {}); // the next one tells

setInterval(() => {
  gone(silent(windows, Date.now()));
  if (windows.size) send({ windows: listed([...windows.values()]) });
}, beatEvery);
