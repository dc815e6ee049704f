// What the server knows, fetched once and kept until it changes.
export const part = document.body.dataset.part;
export const url = (p) => `/parts/${part}/${p}`;

const listeners = new Set();
export const state = { token: '', blocks: [], events: [], power: [], total: 0 };
export const onState = (f) => listeners.add(f);

async function get(path) {
  const r = await fetch(url(path));
  if (!r.ok) throw new Error(`${path}: ${r.status}`);
  return r;
}
export const buffer = async (path) => (await get(path)).arrayBuffer();
export const json = async (path) => (await get(path)).json();

// follow asks for news again and again; the server answers when there is some.
export async function follow() {
  for (let wait = 500; ; ) {
    try {
      const s = await json(`state?seen=${state.token}`);
      const fresh = s.token !== state.token;
      Object.assign(state, s);
      for (const f of listeners) f(state, fresh);
      wait = 500;
    } catch (e) {
      for (const f of listeners) f({ ...state, error: 'The connection to the shop computer is lost; trying again. Nothing saved is lost.' }, false);
      await new Promise((ok) => setTimeout(ok, wait));
      wait = Math.min(8000, wait * 2);
    }
  }
}

// The moves as a polyline: x, y, z, time, line, kind + 4·step for each point.
export class Path {
  constructor(data = new ArrayBuffer(0)) { this.f = new Float32Array(data); this.n = this.f.length / 6; }
  x(i) { return this.f[6 * i]; } y(i) { return this.f[6 * i + 1]; } z(i) { return this.f[6 * i + 2]; }
  t(i) { return this.f[6 * i + 3]; } line(i) { return this.f[6 * i + 4]; }
  cutting(i) { return (this.f[6 * i + 5] & 3) === 1; } step(i) { return this.f[6 * i + 5] >> 2; }
  // find returns the first point reached at or after time t.
  find(t) {
    let a = 0, b = this.n - 1;
    while (a < b) { const m = (a + b) >> 1; if (this.t(m) < t) a = m + 1; else b = m; }
    return a;
  }
  // at returns the place of the tip at time t.
  at(t) {
    if (!this.n) return null;
    const i = this.find(t), j = Math.max(0, i - 1);
    const t0 = this.t(j), t1 = this.t(i), k = t1 > t0 ? Math.max(0, Math.min(1, (t - t0) / (t1 - t0))) : 1;
    const mix = (f) => f.call(this, j) + (f.call(this, i) - f.call(this, j)) * k;
    return { i, x: mix(this.x), y: mix(this.y), z: mix(this.z), line: this.line(i), step: this.step(i), cutting: this.cutting(i) };
  }
}
