// Moves of layers as columns, fetched once and kept for a while.
class MoveSet {
  constructor(buffer) {
    const head = new DataView(buffer);
    this.count = head.getInt32(0, true);
    this.cut = head.getInt32(4, true) === 1;
    this.startX = head.getFloat32(8, true);
    this.startY = head.getFloat32(12, true);
    let at = 16;
    const column = type => {
      const c = new type(buffer, at, this.count);
      at += this.count * 4;
      return c;
    };
    // In the order of the buffer.
    this.x = column(Float32Array);
    this.y = column(Float32Array);
    this.z = column(Float32Array);
    this.flow = column(Float32Array);
    this.speed = column(Float32Array);
    this.width = column(Float32Array);
    this.nozzle = column(Float32Array);
    this.fan = column(Float32Array);
    this.e = column(Float32Array);
    this.line = column(Int32Array);
    this.layer = column(Int32Array);
    this.feature = column(Int32Array);
  }

  // How many moves are done when a line is done.
  upTo(line) {
    let a = 0, b = this.count;
    while (a < b) {
      const m = (a + b) >> 1;
      if (this.line[m] <= line) a = m + 1; else b = m;
    }
    return Math.max(a, Math.min(1, this.count));
  }

  firstOf(layer) {
    let a = 0, b = this.count;
    while (a < b) {
      const m = (a + b) >> 1;
      if (this.layer[m] < layer) a = m + 1; else b = m;
    }
    return a;
  }

  nearest(layer, x, y, travels) {
    let best = -1, least = Infinity;
    for (let i = this.firstOf(layer); i < this.count; i++) {
      if (this.layer[i] !== layer || (!travels && this.flow[i] <= 0)) continue;
      const x0 = i ? this.x[i - 1] : this.startX, y0 = i ? this.y[i - 1] : this.startY;
      const dx = this.x[i] - x0, dy = this.y[i] - y0;
      const k = Math.min(1, Math.max(0, ((x - x0) * dx + (y - y0) * dy) / (dx * dx + dy * dy || 1)));
      const d = (x - x0 - k * dx) ** 2 + (y - y0 - k * dy) ** 2;
      if (d < least) [best, least] = [i, d];
    }
    return best;
  }
}

export class Moves {
  #kept = new Map();

  constructor(url) { this.url = url; }

  ready(from, to) { return this.#kept.get(`${from}-${to}`)?.set ?? null; }

  load(from, to) {
    const key = `${from}-${to}`;
    let entry = this.#kept.get(key);
    if (!entry) {
      entry = { set: null };
      entry.promise = fetch(`${this.url}?from=${from}&to=${to}`).then(async r => {
        if (!r.ok) throw new Error(String(r.status));
        return entry.set = new MoveSet(await r.arrayBuffer());
      });
      entry.promise.catch(() => this.#kept.delete(key));
      this.#kept.set(key, entry);
      while (this.#kept.size > 24) this.#kept.delete(this.#kept.keys().next().value);
    }
    return entry.promise;
  }
}
