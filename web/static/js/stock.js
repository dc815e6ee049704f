// The stock at any moment: a height field whose cells know the times and
// heights of all their cuts, drawn on a coarse grid while moving and on the
// full one at rest.
import { BufferAttribute, BufferGeometry, DynamicDrawUsage, Mesh, MeshLambertMaterial, DoubleSide } from '/static/vendor/three.js';

export class Stock {
  constructor(data) {
    const u = new Uint32Array(data, 0, 4), f = new Float32Array(data, 16, 6);
    [this.nx, this.ny, this.events, this.version] = u;
    [this.x, this.y, this.dx, this.dy, this.top, this.bottom] = f;
    const n = this.nx * this.ny;
    const counts = new Uint32Array(data, 40, n);
    this.first = new Uint32Array(n + 1);
    for (let i = 0; i < n; i++) this.first[i + 1] = this.first[i] + counts[i];
    this.time = new Float32Array(data, 40 + 4 * n, this.events);
    this.z = new Float32Array(data, 40 + 4 * n + 4 * this.events, this.events);
    const end = 40 + 4 * n + 8 * this.events;
    this.start = data.byteLength > end ? new Float32Array(data, end, n) : null; // of stock that is no block
  }
  // height returns where the stock ends in a cell at time t.
  height(cell, t) {
    const a = this.first[cell];
    let lo = a, hi = this.first[cell + 1];
    while (lo < hi) { const m = (lo + hi) >> 1; if (this.time[m] <= t) lo = m + 1; else hi = m; }
    return lo > a ? this.z[lo - 1] : this.start ? this.start[cell] : this.top;
  }
}

// Field is a drawable grid that takes every k-th cell of the stock. Two rings
// of border points close its sides.
export class Field {
  constructor(stock, k, material) {
    this.stock = stock;
    const xs = picks(stock.nx, k), ys = picks(stock.ny, k);
    this.w = xs.length + 4; this.h = ys.length + 4;
    this.cells = new Int32Array(this.w * this.h);
    const pos = new Float32Array(3 * this.w * this.h);
    const place = (list, i, n, origin, d) => {
      const j = Math.max(0, Math.min(list.length - 1, i - 2));
      if (i < 2) return [0, origin];
      if (i >= list.length + 2) return [n - 1, origin + n * d];
      return [list[j], origin + (list[j] + 0.5) * d];
    };
    for (let j = 0; j < this.h; j++) for (let i = 0; i < this.w; i++) {
      const [cx, x] = place(xs, i, stock.nx, stock.x, stock.dx), [cy, y] = place(ys, j, stock.ny, stock.y, stock.dy), v = j * this.w + i;
      const rim = i === 0 || j === 0 || i === this.w - 1 || j === this.h - 1;
      this.cells[v] = rim ? -1 : cy * stock.nx + cx;
      pos[3 * v] = x; pos[3 * v + 1] = y; pos[3 * v + 2] = rim ? stock.bottom : stock.top;
    }
    const index = new Uint32Array(6 * (this.w - 1) * (this.h - 1)), empty = (v) => this.cells[v] < 0 || stock.start?.[this.cells[v]] <= stock.bottom + 1e-6;
    let q = 0;
    for (let j = 0; j + 1 < this.h; j++) for (let i = 0; i + 1 < this.w; i++) {
      const a = j * this.w + i, b = a + 1, c = a + this.w, d = c + 1;
      if (stock.start && empty(a) && empty(b) && empty(c) && empty(d)) continue; // beside the stock
      index.set([a, b, d, a, d, c], q); q += 6;
    }
    this.pos = new BufferAttribute(pos, 3);
    this.pos.setUsage(DynamicDrawUsage);
    const g = new BufferGeometry();
    g.setAttribute('position', this.pos);
    g.setIndex(new BufferAttribute(index.subarray(0, q), 1));
    this.mesh = new Mesh(g, material);
    this.mesh.frustumCulled = false;
    this.t = NaN;
  }
  show(t) {
    if (t === this.t) return;
    this.t = t;
    const { cells, stock } = this, p = this.pos.array;
    for (let v = 0; v < cells.length; v++) if (cells[v] >= 0) p[3 * v + 2] = stock.height(cells[v], t);
    this.pos.needsUpdate = true;
  }
  dispose() { this.mesh.geometry.dispose(); }
}

function picks(n, k) {
  const out = [];
  for (let i = 0; i < n; i += k) out.push(Math.min(n - 1, i + (k >> 1)));
  return out;
}

export const stockMaterial = (color, planes) => new MeshLambertMaterial({ color, flatShading: true, side: DoubleSide, clippingPlanes: planes,
  polygonOffset: true, polygonOffsetFactor: 1, polygonOffsetUnits: 1 });
