// The bar of the whole print moves through it; the drawing shows the layer at that moment, move by move.
import { Moves } from './gcode-moves.js';
import { Plate } from './gcode-plate.js';

const view = document.getElementById('view');
if (view) start(await (await fetch(view.dataset.facts)).json());

function start(facts) {
  const bar = document.getElementById('bar');
  const now = bar.querySelector('.now');
  const pane = /** @type {HTMLElement} */ (view.querySelector('.gpane'));
  const said = document.getElementById('move-facts');
  const asks = /** @type {HTMLInputElement[]} */ ([...view.querySelectorAll('input[name=ask]')]);
  const below = /** @type {HTMLSelectElement} */ (document.getElementById('below'));
  const travels = /** @type {HTMLInputElement} */ (document.getElementById('travels'));
  const moves = new Moves(view.dataset.moves);
  const { slices, layers } = facts;
  pane.hidden = false;
  const plate = new Plate(document.getElementById('layer'), document.getElementById('ramp'), document.getElementById('ramp-text'), facts);

  let time = 0, layer = 0, line = 0, set = null, cursor = 0, asked = 0;

  const clamp = (v, a, b) => Math.min(b, Math.max(a, v));
  const clock = t => {
    const s = Math.round(t);
    return `${Math.floor(s / 3600)}:${String(Math.floor(s / 60) % 60).padStart(2, '0')}:${String(Math.floor(s) % 60).padStart(2, '0')}`;
  };
  const digits = (v, n) => Number.isFinite(v) ? String(+v.toFixed(n)) : 'not set';

  function sliceAt(t) {
    let a = 0, b = slices.length - 1;
    while (a < b) {
      const m = (a + b + 1) >> 1;
      if (slices[m][0] <= t) a = m; else b = m - 1;
    }
    return a;
  }

  function timeOf(atLine) {
    let a = 0, b = slices.length - 1;
    while (a < b) {
      const m = (a + b + 1) >> 1;
      if (slices[m][4] <= atLine) a = m; else b = m - 1;
    }
    const next = slices[a + 1];
    const end = next ? next[0] : facts.seconds;
    const lines = next ? Math.max(1, next[4] - slices[a][4]) : 1;
    return slices[a][0] + clamp((atLine - slices[a][4]) / lines, 0, 1) * (end - slices[a][0]);
  }

  function layerOfLine(n) {
    let a = 0, b = layers.length - 1;
    while (a < b) {
      const m = (a + b + 1) >> 1;
      if (layers[m].line <= n) a = m; else b = m - 1;
    }
    return a;
  }

  function toTime(t) {
    time = clamp(t, 0, facts.seconds);
    const k = sliceAt(time);
    const [at, , , l, from] = slices[k];
    const next = slices[k + 1];
    layer = clamp(l, 0, layers.length - 1);
    line = next ? Math.round(from + (next[4] - from) * clamp((time - at) / Math.max(1e-9, next[0] - at), 0, 1)) : Infinity;
    // Within a slice the print may have gone on to the next layer.
    while (layer + 1 < layers.length && layers[layer + 1].line <= line && line !== Infinity) layer++;
    show();
  }

  function toLine(n) {
    layer = layerOfLine(n);
    line = Math.max(n, layers[layer].line);
    time = timeOf(line);
    show();
  }

  function toLayer(l) {
    layer = clamp(l, 0, layers.length - 1);
    const next = layers[layer + 1];
    line = next ? next.line - 1 : Infinity;
    time = next ? timeOf(line) : facts.seconds;
    show();
  }

  async function show() {
    mark();
    const turn = ++asked;
    let from = layer;
    for (let n = +below.value; n > 0 && from > 0 && layers[from - 1].part === layers[layer].part; n--) from--;
    const loaded = moves.ready(from, layer) ?? await moves.load(from, layer).catch(() => null);
    if (turn !== asked || !loaded) return;
    set = loaded;
    cursor = set.upTo(line);
    draw();
    // What is likely next is fetched meanwhile.
    if (layer + 1 < layers.length) moves.load(layer + 1 - (layer - from), layer + 1).catch(() => null);
  }

  function draw() {
    plate.show(set, cursor, layer, asks.find(a => a.checked).value, travels.checked);
    tell();
    mark();
  }

  function mark() {
    const x = time / Math.max(facts.seconds, 1e-9) * 1000;
    now.setAttribute('x1', String(x));
    now.setAttribute('x2', String(x));
    const l = layers[layer];
    bar.setAttribute('aria-valuenow', String(Math.round(time)));
    bar.setAttribute('aria-valuetext', `${clock(time)}, layer ${l.number}, z ${l.z} mm, flow up to ${l.flow}`);
  }

  // Where the print stands, as one line of words; the measures of the move stand on the move.
  function tell() {
    const l = layers[layer], i = cursor - 1;
    const parts = [[clock(time), `of ${clock(facts.seconds)}`], [l.number < 1 ? 'priming' : `layer ${l.number}`, `of ${layers.at(-1).number}${facts.objects > 1 ? `, object ${l.part + 1}` : ''}, z ${l.z} mm, ${l.h} thick, ${l.s} s, ${l.g} g`]];
    if (set && set.count && i >= 0) {
      const laid = set.flow[i] > 0;
      const kind = laid ? facts.features[set.feature[i]] ?? 'printing' : set.e[i] < 0 ? 'pulling back' : 'travel';
      parts.push([kind, `line ${set.line[i]}, to ${digits(set.x[i], 2)}, ${digits(set.y[i], 2)}${laid && facts.limit && set.flow[i] > facts.limit * 1.005 ? ', above the flow limit' : ''}`]);
      parts.push([set.nozzle[i] ? `${digits(set.nozzle[i], 1)} °C` : 'nozzle off', `fan ${digits(set.fan[i], 0)} %`]);
      if (set.cut) parts.push(['left out', 'more moves than are drawn at once: show fewer layers']);
    }

    said.replaceChildren(...parts.map(([strong, rest]) => {
      const span = document.createElement('span'), b = document.createElement('b');
      b.textContent = strong;
      span.append(b, ` ${rest}`);
      return span;
    }));
  }

  function step(n) {
    if (!set) return;
    const to = cursor + n;
    if (to > set.count && layer + 1 < layers.length) {
      toLine(layers[layer + 1].line);
      return;
    }
    const first = set.firstOf(layer);
    if (to <= first && n < 0 && layer > 0) {
      toLayer(layer - 1);
      return;
    }
    cursor = clamp(to, 1, set.count);
    line = set.line[cursor - 1];
    time = timeOf(line);
    draw();
  }

  bar.addEventListener('keydown', e => {
    const far = e.ctrlKey ? 100 : e.shiftKey ? 10 : 1;
    const act = { ArrowRight: () => step(far), ArrowLeft: () => step(-far), ArrowUp: () => toLayer(layer + 1), ArrowDown: () => toLayer(layer - 1), PageUp: () => toLayer(layer + 10), PageDown: () => toLayer(layer - 10), Home: () => toTime(0), End: () => toTime(facts.seconds), '+': () => plate.zoom(1.4), '-': () => plate.zoom(1 / 1.4), 0: () => plate.fit() }[e.key];
    if (!act) return;
    e.preventDefault();
    act();
  });

  let waiting = null;
  function toPointer(e) {
    const box = bar.getBoundingClientRect();
    waiting = (e.clientX - box.left) / box.width * facts.seconds;
    requestAnimationFrame(() => {
      if (waiting === null) return;
      const t = waiting;
      waiting = null;
      toTime(t);
    });
  }
  bar.addEventListener('pointerdown', e => {
    bar.setPointerCapture(e.pointerId);
    bar.focus();
    toPointer(e);
    e.preventDefault();
  });
  bar.addEventListener('pointermove', e => { if (bar.hasPointerCapture(e.pointerId)) toPointer(e); });

  plate.onPick = (x, y) => {
    const i = set?.nearest(layer, x, y, travels.checked) ?? -1;
    if (i < 0) return;
    cursor = i + 1;
    line = set.line[i];
    time = timeOf(line);
    draw();
  };
  for (const ask of asks) ask.addEventListener('change', draw);
  travels.addEventListener('change', draw);
  below.addEventListener('change', show);
  document.addEventListener('click', e => {
    const link = e.target instanceof Element ? /** @type {HTMLElement} */ (e.target.closest('[data-line]')) : null;
    if (!link) return;
    toLine(+link.dataset.line);
    bar.focus({ preventScroll: true });
  });
  // The middle of the print says more than its first line.
  toTime(facts.seconds / 2);
}
