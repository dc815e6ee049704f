// The strip: the program as a time line. Blocks as wide as their time, the
// load over them, events, and a cursor to scrub.
import { state } from './data.js';

export class Strip {
  constructor(canvas, onscrub) {
    this.c = canvas; this.t = 0; this.onscrub = onscrub;
    let down = false;
    canvas.addEventListener('pointerdown', (e) => { down = true; canvas.setPointerCapture(e.pointerId); this.to(e); });
    canvas.addEventListener('pointermove', (e) => { if (down) this.to(e); else this.tip(e); });
    canvas.addEventListener('pointerup', () => { down = false; });
    canvas.addEventListener('keydown', (e) => {
      const by = { ArrowLeft: -1, ArrowRight: 1, PageDown: -10, PageUp: 10, Home: -1e9, End: 1e9 }[e.key];
      if (by) { this.set(this.t + by, true); e.preventDefault(); e.stopPropagation(); }
    });
    new ResizeObserver(() => this.draw()).observe(canvas);
  }
  get total() { return Math.max(1e-6, state.total || 0); }
  to(e) {
    const r = this.c.getBoundingClientRect();
    this.set(((e.clientX - r.left) / r.width) * this.total, true);
  }
  tip(e) {
    const r = this.c.getBoundingClientRect(), t = ((e.clientX - r.left) / r.width) * this.total;
    const b = state.blocks.find((b) => t >= b.begin && t < b.end);
    this.c.title = b ? `${b.name} · T${b.tool} ${b.title}` : '';
  }
  set(t, tell) {
    this.t = Math.max(0, Math.min(this.total, t));
    this.draw();
    if (tell) this.onscrub(this.t);
  }
  draw() {
    const r = this.c.getBoundingClientRect(), k = Math.min(2, devicePixelRatio), g = this.c.getContext('2d');
    if (!r.width) return;
    if (this.c.width !== Math.round(r.width * k) || this.c.height !== Math.round(r.height * k)) { this.c.width = Math.round(r.width * k); this.c.height = Math.round(r.height * k); }
    const w = r.width, h = r.height, style = getComputedStyle(document.body);
    const ink = style.getPropertyValue('--ink').trim(), quiet = style.getPropertyValue('--quiet').trim(), rust = style.getPropertyValue('--rust').trim(), rule = style.getPropertyValue('--rule').trim(), act = style.getPropertyValue('--act').trim(), text = style.getPropertyValue('--block-text').trim();
    g.setTransform(k, 0, 0, k, 0, 0);
    g.clearRect(0, 0, w, h);
    const x = (t) => (t / this.total) * w, blockTop = h - 42, blockH = 24, loadTop = 4, loadH = blockTop - loadTop - 4;
    // load against the spindle's limit
    if (state.power?.length && state.slot) {
      const most = Math.max(state.limit * 1.15, ...state.power), y = (p) => loadTop + loadH * (1 - Math.min(1, p / most));
      g.beginPath(); g.moveTo(0, loadTop + loadH);
      state.power.forEach((p, i) => { g.lineTo(x(i * state.slot), y(p)); g.lineTo(x((i + 1) * state.slot), y(p)); });
      g.lineTo(w, loadTop + loadH); g.closePath(); g.fillStyle = rule; g.fill(); g.strokeStyle = quiet; g.lineWidth = 1; g.stroke();
      g.setLineDash([3, 3]); g.strokeStyle = rust; g.beginPath(); g.moveTo(0, y(state.limit)); g.lineTo(w, y(state.limit)); g.stroke(); g.setLineDash([]);
    }
    // blocks
    g.font = '12px B612, sans-serif'; g.textBaseline = 'middle';
    state.blocks.forEach((b, i) => {
      const a = x(b.begin), z = x(b.end), cut = x(b.t0);
      g.globalAlpha = state.running ? 0.45 : 1;
      g.fillStyle = b.colour; g.fillRect(cut, blockTop, Math.max(1, z - cut - 1), blockH);
      g.globalAlpha = 1; g.fillStyle = rule; if (cut > a + 1) g.fillRect(a, blockTop + blockH / 2 - 1, cut - a, 2);
      if (z - cut > 16) {
        g.save(); g.beginPath(); g.rect(cut, blockTop, z - cut - 3, blockH); g.clip();
        const light = ['#0072b2', '#5b5b5b', '#009e73', '#d55e00'].includes(b.colour);
        g.fillStyle = light ? '#ffffff' : text; g.fillText(`${i + 1}  ${b.name}`, cut + 5, blockTop + blockH / 2 + 1); g.restore();
      }
      if (b.mark !== 'done') { g.strokeStyle = rust; g.lineWidth = 2; g.strokeRect(cut + 1, blockTop + 1, Math.max(2, z - cut - 3), blockH - 2); }
    });
    for (const e of state.events) if (e.kind === 'contact') { g.fillStyle = rust; g.beginPath(); g.moveTo(x(e.t), blockTop - 2); g.lineTo(x(e.t) - 4, blockTop - 9); g.lineTo(x(e.t) + 4, blockTop - 9); g.fill(); }
    // scale of time
    const nice = [5, 10, 15, 30, 60, 120, 300, 600, 1800, 3600].find((s) => (this.total / s) * 70 < w) ?? 7200;
    g.fillStyle = quiet; g.textBaseline = 'alphabetic';
    for (let t = 0; t <= this.total; t += nice) { const label = clock(t), lx = Math.min(x(t), w - g.measureText(label).width); g.fillText(label, lx, h - 3); g.fillRect(x(t), blockTop + blockH, 1, 3); }
    // cursor
    g.fillStyle = act; g.fillRect(x(this.t) - 1, 0, 2, h - 14); g.beginPath(); g.moveTo(x(this.t) - 6, 0); g.lineTo(x(this.t) + 6, 0); g.lineTo(x(this.t), 8); g.fill();
    this.c.setAttribute('aria-valuemax', this.total.toFixed(1)); this.c.setAttribute('aria-valuenow', this.t.toFixed(1)); this.c.setAttribute('aria-valuetext', clock(this.t));
  }
}

export const clock = (s) => { s = Math.round(s); const p = (n) => String(n).padStart(2, '0'); return s >= 3600 ? `${Math.floor(s / 3600)}:${p(Math.floor(s / 60) % 60)}:${p(s % 60)}` : `${Math.floor(s / 60)}:${p(s % 60)}`; };
