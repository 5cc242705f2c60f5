// Draws moves on a canvas as strokes of ink: as wide as the bead, as strong as what is asked for. What was drawn is kept as pictures
// every few thousand moves, so that going on, going back and large sets cost a few milliseconds a frame.
const STEP = 6000;
const TOGETHER = 500;
const SHADES = 16;
// Widths of beads are told apart by twentieths of a millimetre: what is finer does not show.
const WIDE = 0.05, WIDEST = 60;
const units = { flow: 'mm³/s', speed: 'mm/s', nozzle: '°C', fan: '%', width: 'mm', order: 'moves' };
const FAINT = 1, TRAVEL = 2, BEYOND = 3, LAID = 0;

// Ink on paper: little is faint, much is strong, and what lies beyond a limit is rust.
function inks(canvas) {
  const of = name => getComputedStyle(canvas).getPropertyValue(`--color-${name}`).trim();
  const rgb = hex => [1, 3, 5].map(i => parseInt(hex.slice(i, i + 2), 16));
  const paper = of('sheet'), ink = of('ink'), [p, k] = [rgb(paper), rgb(ink)];
  const mix = t => `rgb(${p.map((v, i) => Math.round(v + (k[i] - v) * t)).join(',')})`;
  return {
    paper, ink, muted: of('muted'), faint: mix(0.28), beyond: of('rust'), now: of('heather'),
    shades: Array.from({ length: SHADES }, (_, i) => mix(0.2 + 0.8 * i / (SHADES - 1))),
  };
}

export class Plate {
  #canvas; #ctx; #ramp; #rampText; #facts;
  #set = null; #cursor = 0; #layer = 0; #colour = 'flow'; #travels = false;
  #pictures = []; #made = null; #frame = 0;
  #scale = 1; #x = 0; #y = 0; #low = 0; #high = 1; #ink;
  onPick = null;

  constructor(canvas, ramp, rampText, facts) {
    this.#canvas = canvas;
    this.#ctx = canvas.getContext('2d', { alpha: false });
    this.#ramp = ramp.getContext('2d');
    this.#rampText = rampText;
    this.#facts = facts;
    this.#ink = inks(canvas);
    matchMedia('(prefers-color-scheme: dark)').addEventListener('change', () => {
      this.#ink = inks(canvas);
      if (!this.#set) return;
      this.#range();
      this.#anew();
    });
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
    const w = Math.floor(c.parentElement.clientWidth), h = Math.round(Math.min(440, Math.max(280, w * 0.42)));
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
    const g = this.#ramp, c = g.canvas;
    g.fillStyle = this.#ink.paper;
    g.fillRect(0, 0, c.width, c.height);
    // Three strokes as they lie on the drawing: little, half, much.
    [0, 0.5, 1].forEach((t, i) => {
      g.strokeStyle = this.#ink.shades[Math.round(t * (SHADES - 1))];
      g.lineWidth = 7;
      g.beginPath();
      g.moveTo(4 + i * 31, 9);
      g.lineTo(28 + i * 31, 9);
      g.stroke();
    });
    const n = x => +x.toFixed(x > 20 ? 0 : 2), unit = units[this.#colour];
    this.#rampText.textContent = this.#colour === 'order' ? 'faint what comes first, strong what comes last'
      : high - low < 1e-9 ? `${n(low)} ${unit} everywhere`
      : `faint ${n(low)}, strong ${n(high)} ${unit}${this.#colour === 'flow' && this.#facts.limit ? ', the limit; beyond it rust and broad' : ''}`;
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
      g.fillStyle = this.#ink.paper;
      g.fillRect(0, 0, c.width, c.height);
    }
    return { c, g, at: from * STEP };
  }

  #stroke(g, a, b) {
    // Some hundred moves together, shade by shade: a stroke costs far more than a segment, and so close together the order does not show.
    for (let i = a; i < b; i += TOGETHER) this.#group(g, i, Math.min(b, i + TOGETHER));
  }

  #group(g, a, b) {
    const s = this.#set, v = this.#values();
    const k = this.#scale * this.dpr, ox = this.#x * this.dpr, oy = this.#y * this.dpr;
    const per = (SHADES - 1) / (this.#high - this.#low);
    const limit = this.#colour === 'flow' && this.#facts.limit ? this.#facts.limit * 1.005 : Infinity;
    const usual = this.#facts.layers[this.#layer].width || 0.4;
    const paths = new Map();
    let last = -2, px = 0, py = 0;
    for (let i = a; i < b; i++) {
      const laid = s.flow[i] > 0;
      const beneath = s.layer[i] < this.#layer;
      const shade = Math.min(SHADES - 1, Math.max(0, Math.round(((v ? v[i] : i) - this.#low) * per)));
      const wide = Math.min(WIDEST - 1, Math.round((s.width[i] > 0 ? s.width[i] : usual) / WIDE));
      const kind = !laid ? this.#travels && !beneath ? TRAVEL : -1 : beneath ? FAINT : s.flow[i] > limit ? BEYOND : LAID;
      const style = kind < 0 ? -1 : kind === LAID ? (shade * WIDEST + wide) * 4 : kind === BEYOND ? wide * 4 + BEYOND : kind;
      const x = ox + s.x[i] * k, y = oy - s.y[i] * k;
      // What is shorter than a third of a pixel waits for the next one of its shade.
      if (style >= 0 && (style !== last || i + 1 === b || Math.abs(x - px) > 0.3 || Math.abs(y - py) > 0.3)) {
        let path = paths.get(style);
        if (!path) paths.set(style, path = new Path2D());
        if (style !== last) path.moveTo(ox + (i ? s.x[i - 1] : s.startX) * k, oy - (i ? s.y[i - 1] : s.startY) * k);
        path.lineTo(x, y);
        [px, py] = [x, y];
      }
      last = style;
    }
    // What lies beneath first, then what is laid, ways between and what is beyond the limit on top.
    const rank = style => [1, 0, 2, 3][style % 4] * 1e6 + style;
    for (const [style, path] of [...paths].sort((p, q) => rank(p[0]) - rank(q[0]))) {
      const kind = style % 4, bead = Math.floor(style / 4) % WIDEST * WIDE * 0.86 * k;
      g.lineWidth = kind === TRAVEL || kind === FAINT ? this.dpr : Math.max(1, kind === BEYOND ? bead * 1.25 + this.dpr : bead);
      g.lineCap = g.lineWidth < 4 ? 'butt' : 'round';
      g.strokeStyle = kind === LAID ? this.#ink.shades[Math.floor(style / 4 / WIDEST)] : kind === FAINT ? this.#ink.faint
        : kind === TRAVEL ? this.#ink.muted : this.#ink.beyond;
      g.stroke(path);
    }
  }

  // The move that was done last, with its measures on its own line, and where the nozzle stands.
  #now() {
    const i = this.#cursor - 1, s = this.#set, g = this.#ctx, d = this.dpr;
    if (i < 0 || i >= s.count) return;
    const at = (x, y) => [(this.#x + x * this.#scale) * d, (this.#y - y * this.#scale) * d];
    const [x0, y0] = i ? at(s.x[i - 1], s.y[i - 1]) : at(s.startX, s.startY);
    const [x, y] = at(s.x[i], s.y[i]);
    g.strokeStyle = this.#ink.now;
    g.lineWidth = 2 * d;
    g.beginPath();
    g.moveTo(x0, y0);
    g.lineTo(x, y);
    g.stroke();
    g.beginPath();
    g.arc(x, y, 4.5 * d, 0, 7);
    g.fillStyle = this.#ink.paper;
    g.fill();
    g.stroke();
    const laid = s.flow[i] > 0, n = (value, digits) => +value.toFixed(digits);
    const text = laid ? `${n(s.flow[i], 2)} mm³/s · ${n(s.speed[i], 0)} mm/s · ${n(s.width[i], 2)} mm wide`
      : s.e[i] < 0 ? `back ${n(-s.e[i], 2)} mm · ${n(s.speed[i], 0)} mm/s` : `way · ${n(s.speed[i], 0)} mm/s`;
    g.save();
    g.font = `600 ${13 * d}px "Atkinson Hyperlegible Next Variable", "Signs", sans-serif`;
    const long = Math.hypot(x - x0, y - y0), half = g.measureText(text).width / 2 + 8 * d;
    let angle = Math.atan2(y - y0, x - x0);
    if (long > 2 * half) {
      // Along the line, and never upside down.
      if (Math.abs(angle) > Math.PI / 2) angle += Math.PI;
      g.translate((x + x0) / 2, (y + y0) / 2);
      g.rotate(angle);
      g.translate(0, -9 * d);
    } else {
      g.translate(Math.min(this.#canvas.width - half, Math.max(half, x)), y > 40 * d ? y - 16 * d : y + 26 * d);
    }

    g.textAlign = 'center';
    g.lineJoin = 'round';
    g.lineWidth = 6 * d;
    g.strokeStyle = this.#ink.paper;
    g.strokeText(text, 0, 0);
    g.fillStyle = this.#ink.ink;
    g.fillText(text, 0, 0);
    g.restore();
  }
}
