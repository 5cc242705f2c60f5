// Draws moves on a canvas. What was drawn is kept as pictures every few thousand moves, so that going on, going back and large
// sets cost a few milliseconds a frame.
const STEP = 6000;
const TOGETHER = 500;
const frost = [0x3e, 0x7f, 0x9b], birch = [0xd9, 0xd2, 0xbe], ember = [0xc2, 0x51, 0x2e];
const SHADES = 24;
const mix = (a, b, t) => `rgb(${a.map((v, i) => Math.round(v + (b[i] - v) * t)).join(',')})`;
const shades = Array.from({ length: SHADES }, (_, i) => {
  const k = i / (SHADES - 1);
  return k < 0.5 ? mix(frost, birch, k * 2) : mix(birch, ember, k * 2 - 1);
});
const units = { flow: 'mm³/s', speed: 'mm/s', nozzle: '°C', fan: '%', width: 'mm', order: 'moves' };

export class Plate {
  #canvas; #ctx; #ramp; #rampText; #facts;
  #set = null; #cursor = 0; #layer = 0; #colour = 'flow'; #travels = false;
  #pictures = []; #made = null; #frame = 0;
  #scale = 1; #x = 0; #y = 0; #low = 0; #high = 1;
  onPick = null;

  constructor(canvas, ramp, rampText, facts) {
    this.#canvas = canvas;
    this.#ctx = canvas.getContext('2d', { alpha: false });
    this.#ramp = ramp.getContext('2d');
    this.#rampText = rampText;
    this.#facts = facts;
    new ResizeObserver(() => this.#size()).observe(canvas.parentElement);
    this.#size();
    let drag = null;
    canvas.addEventListener('pointerdown', e => {
      canvas.setPointerCapture(e.pointerId);
      drag = { x: e.offsetX, y: e.offsetY, moved: false };
    });
    canvas.addEventListener('pointermove', e => {
      if (!drag) return;
      const [dx, dy] = [e.offsetX - drag.x, e.offsetY - drag.y];
      if (!drag.moved && Math.hypot(dx, dy) < 4) return;
      Object.assign(drag, { x: e.offsetX, y: e.offsetY, moved: true });
      this.#shift(dx, dy);
    });
    canvas.addEventListener('pointerup', e => {
      if (drag && !drag.moved) this.onPick?.((e.offsetX - this.#x) / this.#scale, (this.#y - e.offsetY) / this.#scale);
      drag = null;
    });
    canvas.addEventListener('wheel', e => {
      e.preventDefault();
      this.zoom(Math.exp(-e.deltaY / 400), e.offsetX, e.offsetY);
    }, { passive: false });
    canvas.addEventListener('keydown', e => {
      const act = { ArrowLeft: () => this.#shift(60, 0), ArrowRight: () => this.#shift(-60, 0), ArrowUp: () => this.#shift(0, 60), ArrowDown: () => this.#shift(0, -60), '+': () => this.zoom(1.4), '-': () => this.zoom(1 / 1.4), 0: () => this.fit() }[e.key];
      if (!act) return;
      e.preventDefault();
      act();
    });
  }

  #size() {
    const c = this.#canvas;
    const w = Math.floor(c.parentElement.clientWidth), h = Math.round(Math.min(430, Math.max(280, w * 0.6)));
    if (!w || (c.clientWidth === w && c.clientHeight === h && c.width)) return;
    const dpr = window.devicePixelRatio || 1;
    c.width = Math.round(w * dpr);
    c.height = Math.round(h * dpr);
    this.w = w;
    this.h = h;
    this.dpr = dpr;
    this.fit();
  }

  fit() {
    const [x0, y0, x1, y1] = this.#facts.box;
    this.#scale = 0.92 * Math.min(this.w / Math.max(1, x1 - x0), this.h / Math.max(1, y1 - y0));
    this.#x = this.w / 2 - (x0 + x1) / 2 * this.#scale;
    this.#y = this.h / 2 + (y0 + y1) / 2 * this.#scale;
    this.#anew();
  }

  zoom(k, px = this.w / 2, py = this.h / 2) {
    const next = Math.min(4000, Math.max(0.05, this.#scale * k));
    k = next / this.#scale;
    this.#scale = next;
    this.#x = px - (px - this.#x) * k;
    this.#y = py - (py - this.#y) * k;
    this.#anew();
  }

  #shift(dx, dy) {
    this.#x += dx;
    this.#y += dy;
    this.#anew();
  }

  show(set, cursor, layer, colour, travels) {
    const same = set === this.#set && layer === this.#layer && colour === this.#colour && travels === this.#travels;
    this.#set = set;
    this.#cursor = cursor;
    this.#layer = layer;
    this.#colour = colour;
    this.#travels = travels;
    if (!same) {
      this.#range();
      this.#anew();
    } else {
      this.#render();
    }
  }

  #values() { return this.#colour === 'order' ? null : this.#set[this.#colour]; }

  #range() {
    const v = this.#values(), s = this.#set;
    let low = Infinity, high = -Infinity;
    if (!v) [low, high] = [s.firstOf(this.#layer), Math.max(1, s.count)];
    else {
      for (let i = 0; i < s.count; i++) {
        if (s.flow[i] <= 0 || Number.isNaN(v[i])) continue;
        if (v[i] < low) low = v[i];
        if (v[i] > high) high = v[i];
      }
    }
    if (this.#colour === 'flow') [low, high] = [0, this.#facts.limit ?? this.#facts.maxFlow];
    if (this.#colour === 'fan') [low, high] = [0, 100];
    if (this.#colour === 'speed') low = 0;
    if (this.#colour === 'width') [low, high] = [Math.min(0.2, low), Math.min(1.5, Math.max(0.6, high))];
    if (!Number.isFinite(low)) [low, high] = [0, 1];
    if (high - low < 1e-6) [low, high] = [low - 1, high + 1];
    [this.#low, this.#high] = [low, high];
    const g = this.#ramp;
    g.clearRect(0, 0, 180, 34);
    shades.forEach((c, i) => {
      g.fillStyle = c;
      g.fillRect(1 + i * 178 / SHADES, 4, 178 / SHADES + 1, 22);
    });
    g.strokeStyle = '#1d2b30';
    g.strokeRect(1, 4, 178, 22);
    const n = x => +x.toFixed(x > 20 ? 0 : 2);
    this.#rampText.textContent = this.#colour === 'order' ? 'from the first to the last move of the layer'
      : `${n(low)} to ${n(high)} ${units[this.#colour]}${this.#colour === 'flow' && this.#facts.limit ? ', the limit; above it white and bold' : ''}`;
  }

  #anew() {
    this.#pictures = [];
    this.#made = null;
    this.#render();
  }

  // Goes on from the nearest picture; a slice of moves per frame.
  #render() {
    cancelAnimationFrame(this.#frame);
    if (!this.#set) return;
    const target = this.#cursor;
    const from = Math.min(Math.floor(target / STEP), this.#pictures.length);
    const at = from * STEP;
    const work = this.#made && this.#made.at <= target && this.#made.at >= at ? this.#made : this.#begin(from);
    const begun = performance.now();
    let frames = 0, strokes = 0;
    const frame = () => {
      const t0 = performance.now();
      frames++;
      do {
        const end = Math.min(target, (Math.floor(work.at / STEP) + 1) * STEP);
        this.#stroke(work.g, work.at, end);
        strokes += end - work.at;
        work.at = end;
        if (end % STEP === 0 && end > 0 && this.#pictures.length === end / STEP - 1) {
          const keep = new OffscreenCanvas(work.c.width, work.c.height);
          keep.getContext('2d', { alpha: false }).drawImage(work.c, 0, 0);
          this.#pictures.push(keep);
        }
      } while (work.at < target && performance.now() - t0 < 12);
      this.#made = work;
      this.#ctx.drawImage(work.c, 0, 0);
      this.#now();
      if (work.at < target) this.#frame = requestAnimationFrame(frame);
      else {
        this.#canvas.dataset.drawn = String(target);
        this.#canvas.dataset.layer = String(this.#layer);
        this.#canvas.dataset.frames = String(frames);
        this.#canvas.dataset.strokes = String(strokes);
        this.#canvas.dataset.ms = (performance.now() - begun).toFixed(1);
      }
    };
    frame();
  }

  #begin(from) {
    const c = new OffscreenCanvas(this.#canvas.width, this.#canvas.height);
    const g = c.getContext('2d', { alpha: false });
    if (from > 0) {
      g.drawImage(this.#pictures[from - 1], 0, 0);
    } else {
      g.fillStyle = '#1d2b30';
      g.fillRect(0, 0, c.width, c.height);
    }
    return { c, g, at: from * STEP };
  }

  #stroke(g, a, b) {
    const width = Math.max(1, (this.#facts.layers[this.#layer].width || 0.4) * 0.9 * this.#scale * this.dpr);
    g.lineCap = width < 4 ? 'butt' : 'round';
    // Some hundred moves together, colour by colour: a stroke costs far more than a segment, and so close together the order does not show.
    for (let i = a; i < b; i += TOGETHER) this.#group(g, i, Math.min(b, i + TOGETHER), width);
  }

  #group(g, a, b, width) {
    const s = this.#set, v = this.#values();
    const k = this.#scale * this.dpr, ox = this.#x * this.dpr, oy = this.#y * this.dpr;
    const per = (SHADES - 1) / (this.#high - this.#low);
    const limit = this.#colour === 'flow' && this.#facts.limit ? this.#facts.limit * 1.005 : Infinity;
    const paths = new Map();
    let last = -2, px = 0, py = 0;
    for (let i = a; i < b; i++) {
      const laid = s.flow[i] > 0;
      const faint = s.layer[i] < this.#layer;
      const shade = Math.min(SHADES - 1, Math.max(0, Math.round(((v ? v[i] : i) - this.#low) * per)));
      const above = s.flow[i] > limit && !faint;
      const style = laid ? (above ? 900 : shade + (faint ? 100 : 0)) : this.#travels && !faint ? 800 : -1;
      const x = ox + s.x[i] * k, y = oy - s.y[i] * k;
      // What is shorter than a third of a pixel waits for the next one of its colour.
      if (style >= 0 && (style !== last || i + 1 === b || Math.abs(x - px) > 0.3 || Math.abs(y - py) > 0.3)) {
        let path = paths.get(style);
        if (!path) paths.set(style, path = new Path2D());
        if (style !== last) path.moveTo(ox + (i ? s.x[i - 1] : s.startX) * k, oy - (i ? s.y[i - 1] : s.startY) * k);
        path.lineTo(x, y);
        [px, py] = [x, y];
      }
      last = style;
    }
    for (const [style, path] of [...paths].sort((p, q) => (p[0] + 700) % 1000 - (q[0] + 700) % 1000)) {
      g.globalAlpha = style >= 100 && style < 800 ? 0.22 : 1;
      g.lineWidth = style === 800 ? 1 : style === 900 ? width * 1.3 + 1 : width;
      g.strokeStyle = style === 800 ? '#7f9298' : style === 900 ? '#ffffff' : shades[style % 100];
      g.stroke(path);
    }
    g.globalAlpha = 1;
  }

  // The nozzle and the move that brought it here.
  #now() {
    const i = this.#cursor - 1, s = this.#set, g = this.#ctx;
    if (i < 0 || i >= s.count) return;
    const at = (x, y) => [(this.#x + x * this.#scale) * this.dpr, (this.#y - y * this.#scale) * this.dpr];
    const [x0, y0] = i ? at(s.x[i - 1], s.y[i - 1]) : at(s.startX, s.startY);
    const [x, y] = at(s.x[i], s.y[i]);
    g.strokeStyle = '#ffffff';
    g.lineWidth = 2 * this.dpr;
    g.beginPath();
    g.moveTo(x0, y0);
    g.lineTo(x, y);
    g.stroke();
    g.beginPath();
    g.arc(x, y, 5 * this.dpr, 0, 7);
    g.fillStyle = '#74487a';
    g.fill();
    g.stroke();
  }
}
