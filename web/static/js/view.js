// The view: part, stock, tool, path and vise on a canvas. It draws when
// something changed, never in a loop.
import * as T from '/static/vendor/three.js';
import { listen } from './mouse.js';
import { Field, Stock, stockMaterial } from './stock.js';

const css = (name) => getComputedStyle(document.documentElement).getPropertyValue(name).trim();

export class View {
  constructor(canvas, axes) {
    this.canvas = canvas; this.axes = axes;
    this.gl = new T.WebGLRenderer({ canvas, antialias: true, alpha: true });
    this.gl.localClippingEnabled = true;
    this.gl.setPixelRatio(Math.min(2, devicePixelRatio));
    this.scene = new T.Scene();
    this.camera = new T.OrthographicCamera(-1, 1, 1, -1, -5000, 5000);
    this.camera.up.set(0, 0, 1);
    this.target = new T.Vector3();
    this.yaw = -0.65; this.pitch = 0.72; this.zoom = 4;
    this.planes = [];
    this.scene.add(new T.HemisphereLight(0xffffff, 0x8d8a80, 1.9));
    const sun = new T.DirectionalLight(0xffffff, 1.7);
    sun.position.set(-0.5, -0.7, 1.2);
    this.scene.add(sun);
    this.shown = { stock: true, part: false, path: true, vise: true, compare: false, section: false };
    this.groups = {};
    for (const k of ['stock', 'part', 'edges', 'path', 'vise', 'compare', 'tool', 'mark', 'lit', 'others', 'fixtures', 'open']) { this.groups[k] = new T.Group(); this.scene.add(this.groups[k]); }
    this.time = 0; this.moving = false; this.frames = 0; this.cost = 0;
    listen(this);
    new ResizeObserver(() => this.resize()).observe(canvas.parentElement);
    this.resize();
  }

  // --- camera
  resize() {
    const r = this.canvas.parentElement.getBoundingClientRect();
    if (!r.width || !r.height) return;
    this.w = r.width; this.h = r.height;
    this.gl.setSize(r.width, r.height, false);
    if (this.box && !this.framed) this.fit();
    this.draw();
  }
  place() {
    const c = this.camera, cp = Math.cos(this.pitch);
    const dir = new T.Vector3(Math.sin(this.yaw) * -cp, -Math.cos(this.yaw) * cp, Math.sin(this.pitch));
    c.up.set(0, 0, 1);
    if (Math.abs(dir.z) > 0.9999) c.up.set(Math.sin(this.yaw), Math.cos(this.yaw), 0).multiplyScalar(Math.sign(dir.z));
    c.position.copy(this.target).addScaledVector(dir, 1000);
    c.left = -this.w / 2 / this.zoom; c.right = -c.left; c.top = this.h / 2 / this.zoom; c.bottom = -c.top;
    c.lookAt(this.target);
    c.updateProjectionMatrix(); c.updateMatrixWorld();
    this.mark();
  }
  fit() {
    if (!this.box) return;
    const [x0, y0, z0, x1, y1, z1] = this.box;
    this.target.set((x0 + x1) / 2, (y0 + y1) / 2, (z0 + z1) / 2);
    this.zoom = 1; this.place();
    const inv = this.camera.matrixWorldInverse;
    let rx = 1, ry = 1;
    for (const x of [x0, x1]) for (const y of [y0, y1]) for (const z of [z0, z1]) {
      const p = new T.Vector3(x, y, z).applyMatrix4(inv);
      rx = Math.max(rx, Math.abs(p.x)); ry = Math.max(ry, Math.abs(p.y));
    }
    this.zoom = 0.74 * Math.min(this.w / 2 / rx, this.h / 2 / ry);
    this.framed = true;
    this.draw();
  }
  look(name) {
    const at = { iso: [-0.65, 0.72], '+z': [0, Math.PI / 2], '-z': [0, -Math.PI / 2], '-y': [0, 0], '+y': [Math.PI, 0], '-x': [Math.PI / 2, 0], '+x': [-Math.PI / 2, 0] }[name];
    if (at) [this.yaw, this.pitch] = at;
    this.fit();
  }
  pan(dx, dy) {
    const e = this.camera.matrixWorld.elements;
    this.target.addScaledVector(new T.Vector3(e[0], e[1], e[2]), -dx / this.zoom).addScaledVector(new T.Vector3(e[4], e[5], e[6]), dy / this.zoom);
  }
  // screen tells where a point of the setup is in the window.
  screen([x, y, z]) {
    const r = this.canvas.getBoundingClientRect(), p = new T.Vector3(x, y, z).applyMatrix4(this.camera.matrixWorldInverse);
    return [r.x + this.w / 2 + p.x * this.zoom, r.y + this.h / 2 - p.y * this.zoom];
  }
  // mark draws the corner mark: labelled axes in plain ink.
  mark() {
    const e = this.camera.matrixWorldInverse.elements;
    const line = (x, y, z, n) => { const sx = e[0] * x + e[4] * y + e[8] * z, sy = e[1] * x + e[5] * y + e[9] * z; return `<path d="M37 37 ${37 + 24 * sx} ${37 - 24 * sy}" stroke="currentColor"/><text x="${37 + 32 * sx - 4}" y="${37 - 32 * sy + 4}">${n}</text>`; };
    this.axes.innerHTML = line(1, 0, 0, 'X') + line(0, 1, 0, 'Y') + line(0, 0, 1, 'Z');
  }

  // --- contents
  setModel(data, faces) {
    const [np, nt, nl] = new Uint32Array(data, 0, 3);
    const pts = new Float32Array(data, 12, 3 * np), tri = new Uint32Array(data, 12 + 12 * np, 4 * nt), lines = new Float32Array(data, 12 + 12 * np + 16 * nt, 3 * nl);
    const pos = new Float32Array(9 * nt);
    this.triFace = new Uint32Array(nt);
    for (let i = 0; i < nt; i++) {
      for (let k = 0; k < 3; k++) pos.set(pts.subarray(3 * tri[4 * i + k], 3 * tri[4 * i + k] + 3), 9 * i + 3 * k);
      this.triFace[i] = tri[4 * i + 3];
    }
    const g = new T.BufferGeometry();
    g.setAttribute('position', new T.BufferAttribute(pos, 3));
    clear(this.groups.part); clear(this.groups.edges);
    const painted = this.paint(g, faces);
    this.partMesh = new T.Mesh(g, new T.MeshLambertMaterial({ color: painted ? 0xffffff : 0xcfd9d8, vertexColors: painted, flatShading: true, side: T.DoubleSide, clippingPlanes: this.planes, polygonOffset: true, polygonOffsetFactor: 1, polygonOffsetUnits: 1 }));
    this.groups.part.add(this.partMesh);
    const lg = new T.BufferGeometry();
    lg.setAttribute('position', new T.BufferAttribute(lines.slice(), 3));
    this.groups.edges.add(new T.LineSegments(lg, new T.LineBasicMaterial({ color: css('--ink'), clippingPlanes: this.planes })));
    this.faces = faces; this.lines = lines.slice();
  }
  // paint gives the triangles the colours of their faces, if any has one.
  paint(g, faces) {
    if (!faces.some((f) => f.colour)) return false;
    const col = new Float32Array(9 * this.triFace.length), c = new T.Color();
    this.triFace.forEach((f, i) => {
      c.set(faces[f].colour ? faces[f].colour & 0xffffff : 0xcfd9d8);
      for (let k = 0; k < 9; k += 3) c.toArray(col, 9 * i + k);
    });
    g.setAttribute('color', new T.BufferAttribute(col, 3));
    return true;
  }
  // setEdges tells which chords of the drawn lines belong to which edge.
  setEdges(edges) {
    this.edges = edges; this.chordEdge = [];
    edges.forEach((e, i) => { for (let k = 0; k < e.chords; k++) this.chordEdge.push(i); });
  }
  // setOthers shows the bodies that are not cut, as ghosts.
  setOthers(data) {
    clear(this.groups.others);
    const f = new Float32Array(data), by = new Map();
    for (let i = 0; i + 10 <= f.length; i += 10) { const n = f[i + 9]; if (!by.has(n)) by.set(n, []); by.get(n).push(...f.subarray(i, i + 9)); }
    for (const [n, list] of by) {
      const g = new T.BufferGeometry();
      g.setAttribute('position', new T.BufferAttribute(new Float32Array(list), 3));
      const mesh = new T.Mesh(g, new T.MeshLambertMaterial({ color: 0xb9b4a6, flatShading: true, transparent: true, opacity: 0.4, depthWrite: false, side: T.DoubleSide, clippingPlanes: this.planes }));
      mesh.userData.body = n; mesh.visible = false;
      this.groups.others.add(mesh);
    }
  }
  setFixtures(data) {
    clear(this.groups.fixtures);
    if (!data.byteLength) return;
    const g = new T.BufferGeometry();
    g.setAttribute('position', new T.BufferAttribute(new Float32Array(data), 3));
    this.groups.fixtures.add(new T.Mesh(g, new T.MeshLambertMaterial({ color: 0xd9d2c3, flatShading: true, transparent: true, opacity: 0.75, side: T.DoubleSide, clippingPlanes: this.planes })));
  }
  // setOpen shows chains of a drawing that do not close, with a ring at each end.
  setOpen(data) {
    clear(this.groups.open);
    const f = new Float32Array(data), ends = [], m = (d) => new T.LineBasicMaterial({ color: css('--rust'), depthTest: false, ...d });
    for (let i = 0; i + 6 <= f.length; i += 6) if (f[i] === f[i + 3] && f[i + 1] === f[i + 4] && f[i + 2] === f[i + 5]) ends.push([f[i], f[i + 1], f[i + 2]]);
    this.openEnds = ends;
    if (!ends.length) return;
    const g = new T.BufferGeometry();
    g.setAttribute('position', new T.BufferAttribute(f, 3));
    this.groups.open.add(new T.LineSegments(g, m()));
    for (const [x, y, z] of ends) {
      const ring = new T.Line(new T.BufferGeometry().setFromPoints([...Array(25).keys()].map((k) => new T.Vector3(1.5 * Math.cos(k * Math.PI / 12), 1.5 * Math.sin(k * Math.PI / 12), 0))), m());
      ring.position.set(x, y, z);
      this.groups.open.add(ring);
    }
  }
  showBody(n, on) { for (const m of this.groups.others.children) if (m.userData.body === n) m.visible = on; this.draw(); }
  setBox(stock, part, grip) {
    const fresh = !this.box || stock.some((v, i) => Math.abs(v - this.box[i]) > 1e-9);
    this.box = stock; this.part = part;
    clear(this.groups.vise);
    if (grip > 0) for (const side of [-1, 1]) {
      const [x0, y0, z0, x1, y1] = stock, thick = 12, low = 8;
      const g = new T.BoxGeometry(x1 - x0 + 10, thick, grip + low);
      const y = side < 0 ? y0 - thick / 2 : y1 + thick / 2;
      const jaw = new T.Mesh(g, new T.MeshLambertMaterial({ color: 0xd9d2c3, transparent: true, opacity: 0.75 }));
      jaw.position.set((x0 + x1) / 2, y, z0 + (grip - low) / 2);
      const e = new T.LineSegments(new T.EdgesGeometry(g), new T.LineBasicMaterial({ color: 0x8d8778 }));
      e.position.copy(jaw.position);
      this.groups.vise.add(jaw, e);
    }
    clear(this.groups.mark);
    const o = 6, lines = [[-o, 0, 0, o, 0, 0], [0, -o, 0, 0, o, 0], [0, 0, 0, 0, 0, o]].flat();
    const g = new T.BufferGeometry();
    g.setAttribute('position', new T.BufferAttribute(new Float32Array(lines), 3));
    this.groups.mark.add(new T.LineSegments(g, new T.LineBasicMaterial({ color: css('--act'), depthTest: false })));
    if (fresh) this.fit();
  }
  setStock(data) {
    this.fine?.dispose(); this.coarse?.dispose();
    clear(this.groups.stock);
    this.stock = data ? new Stock(data) : null;
    if (!this.stock) return;
    const m = stockMaterial(0xc3cdcc, this.planes);
    const n = this.stock.nx * this.stock.ny;
    this.fine = new Field(this.stock, n > 60000 ? 2 : 1, m);
    this.coarse = new Field(this.stock, Math.max(2, Math.round(Math.sqrt(n / 5500))), m);
    this.groups.stock.add(this.fine.mesh, this.coarse.mesh);
  }
  setPath(path, colours) {
    this.path = path; this.colours = colours;
  }
  // showPath draws the moves of one step, or faintly of all.
  showPath(step) {
    this.pathStep = step; this.pathDrawn = this.path;
    clear(this.groups.path);
    if (!this.path) return;
    const cut = new Map(), rapid = [];
    for (let i = 1; i < this.path.n; i++) {
      const k = this.path.step(i);
      if (step != null && step >= 0 && k !== step) continue;
      if (this.path.step(i - 1) !== k) continue;
      const seg = [this.path.x(i - 1), this.path.y(i - 1), this.path.z(i - 1), this.path.x(i), this.path.y(i), this.path.z(i)];
      if (this.path.cutting(i)) { if (!cut.has(k)) cut.set(k, []); cut.get(k).push(...seg); } else if (step >= 0) rapid.push(...seg);
    }
    const add = (list, mat, dashed) => {
      const g = new T.BufferGeometry();
      g.setAttribute('position', new T.BufferAttribute(new Float32Array(list), 3));
      const l = new T.LineSegments(g, mat);
      if (dashed) l.computeLineDistances();
      this.groups.path.add(l);
    };
    for (const [k, list] of cut) add(list, new T.LineBasicMaterial({ color: this.colours[k] ?? css('--ink'), transparent: true, opacity: step >= 0 ? 1 : 0.25 }));
    if (rapid.length) add(rapid, new T.LineDashedMaterial({ color: css('--ink'), dashSize: 2, gapSize: 2, transparent: true, opacity: 0.55 }), true);
  }
  setCompare(data) {
    clear(this.groups.compare);
    const f = new Float32Array(data), n = f.length / 11;
    const pos = new Float32Array(9 * n), col = new Float32Array(9 * n);
    this.deviation = new Float32Array(n); this.compareFace = new Int32Array(n);
    for (let i = 0; i < n; i++) {
      pos.set(f.subarray(11 * i, 11 * i + 9), 9 * i);
      this.compareFace[i] = f[11 * i + 9];
      const d = this.deviation[i] = f[11 * i + 10], c = puor(d);
      for (let k = 0; k < 3; k++) col.set(c, 9 * i + 3 * k);
    }
    const g = new T.BufferGeometry();
    g.setAttribute('position', new T.BufferAttribute(pos, 3));
    g.setAttribute('color', new T.BufferAttribute(col, 3));
    this.compareMesh = new T.Mesh(g, new T.MeshLambertMaterial({ vertexColors: true, flatShading: true, side: T.DoubleSide, clippingPlanes: this.planes, polygonOffset: true, polygonOffsetFactor: 1, polygonOffsetUnits: 1 }));
    this.groups.compare.add(this.compareMesh);
  }
  setTool(shape, colour) {
    if (this.toolKey === JSON.stringify([shape, colour])) return;
    this.toolKey = JSON.stringify([shape, colour]);
    clear(this.groups.tool);
    if (!shape) return;
    const lathe = (pts, color, opacity) => {
      if (!pts || pts.length < 2) return;
      const g = new T.LatheGeometry(pts.map(([r, z]) => new T.Vector2(Math.max(r, 1e-4), z)), 28);
      g.rotateX(Math.PI / 2);
      this.groups.tool.add(new T.Mesh(g, new T.MeshLambertMaterial({ color, transparent: opacity < 1, opacity, side: T.DoubleSide })));
    };
    lathe(shape.cut, colour, 1); lathe(shape.shank, 0xaab0b4, 1); lathe(shape.holder, 0xe3dccd, 0.7);
  }
  // highlight lights faces of the part up, through whatever stands before them.
  highlight(faces, edges = []) {
    this.lit = new Set(faces);
    clear(this.groups.lit);
    if (edges.length && this.chordEdge) this.lightEdges(new Set(edges));
    if (!this.partMesh || !this.lit.size) { this.draw(); return; }
    const all = this.partMesh.geometry.getAttribute('position').array, out = [];
    for (let i = 0; i < this.triFace.length; i++) if (this.lit.has(this.triFace[i])) for (let k = 0; k < 9; k++) out.push(all[9 * i + k]);
    const g = new T.BufferGeometry();
    g.setAttribute('position', new T.BufferAttribute(new Float32Array(out), 3));
    this.groups.lit.add(new T.Mesh(g, new T.MeshBasicMaterial({ color: css('--act'), transparent: true, opacity: 0.45, depthTest: false, depthWrite: false, side: T.DoubleSide, clippingPlanes: this.planes })));
    this.draw();
  }
  lightEdges(lit) {
    const out = [];
    this.chordEdge.forEach((e, i) => { if (lit.has(e)) out.push(...this.lines.subarray(6 * i, 6 * i + 6)); });
    const g = new T.BufferGeometry();
    g.setAttribute('position', new T.BufferAttribute(new Float32Array(out), 3));
    for (const d of [-0.6, 0, 0.6]) { // lines are a pixel wide: three make one that is seen
      const l = new T.LineSegments(d ? g.clone() : g, new T.LineBasicMaterial({ color: css('--act'), depthTest: false }));
      l.onBeforeRender = () => { const e = this.camera.matrixWorld.elements; l.position.set(e[0] + e[4], e[1] + e[5], e[2] + e[6]).multiplyScalar(d / this.zoom); };
      this.groups.lit.add(l);
    }
    this.draw();
  }
  // facesIn and edgesIn list what lies wholly inside a window of the canvas.
  facesIn(box) {
    const pos = this.partMesh.geometry.getAttribute('position').array, inside = this.inWindow(box), out = new Map();
    for (let i = 0; i < this.triFace.length; i++) for (let k = 0; k < 9; k += 3) {
      const f = this.triFace[i];
      if (out.get(f) !== false) out.set(f, inside(pos, 9 * i + k));
    }
    return [...out].filter(([, all]) => all).map(([f]) => f);
  }
  edgesIn(box) {
    const inside = this.inWindow(box), out = new Map();
    this.chordEdge.forEach((e, i) => { for (const k of [0, 3]) if (out.get(e) !== false) out.set(e, inside(this.lines, 6 * i + k)); });
    return [...out].filter(([, all]) => all).map(([e]) => e);
  }
  inWindow([x0, y0, x1, y1]) {
    const p = new T.Vector3(), m = this.camera.matrixWorldInverse;
    return (a, i) => {
      p.fromArray(a, i).applyMatrix4(m);
      const x = this.w / 2 + p.x * this.zoom, y = this.h / 2 - p.y * this.zoom;
      return x > x0 && x < x1 && y > y0 && y < y1;
    };
  }
  section(share) {
    this.planes.length = 0;
    if (share != null && this.box) this.planes.push(new T.Plane(new T.Vector3(-1, 0, 0), this.box[0] + (this.box[3] - this.box[0]) * share));
    for (const m of this.scene.children) m.traverse?.((o) => { if (o.material?.clippingPlanes) o.material.needsUpdate = true; });
    this.draw();
  }
  pick(e) {
    const mesh = this.shown.compare && this.compareMesh ? this.compareMesh : this.partMesh;
    if (!mesh) return null;
    const r = this.canvas.getBoundingClientRect();
    const ray = new T.Raycaster();
    ray.setFromCamera(new T.Vector2(((e.clientX - r.left) / r.width) * 2 - 1, 1 - ((e.clientY - r.top) / r.height) * 2), this.camera);
    const hit = ray.intersectObject(mesh)[0];
    if (!hit) return null;
    if (mesh === this.compareMesh) return { face: this.compareFace[hit.faceIndex], deviation: this.deviation[hit.faceIndex], point: hit.point };
    return { face: this.triFace[hit.faceIndex], point: hit.point, edge: this.edgeAt(e, hit), thick: this.thickness(hit) };
  }
  // edgeAt returns the edge within a few pixels of the pointer, at the depth of
  // what is seen there.
  edgeAt(e, hit) {
    if (!this.chordEdge || !this.lines) return null;
    const m = this.camera.matrixWorldInverse, p = hit.point.clone().applyMatrix4(m), near = 5 / this.zoom;
    let best = near, found = null;
    const a = new T.Vector3(), b = new T.Vector3();
    for (let i = 0; i < this.chordEdge.length; i++) {
      a.fromArray(this.lines, 6 * i).applyMatrix4(m); b.fromArray(this.lines, 6 * i + 3).applyMatrix4(m);
      const dx = b.x - a.x, dy = b.y - a.y, l = dx * dx + dy * dy;
      const k = l > 0 ? Math.max(0, Math.min(1, ((p.x - a.x) * dx + (p.y - a.y) * dy) / l)) : 0;
      const d = Math.hypot(a.x + k * dx - p.x, a.y + k * dy - p.y);
      if (d < best && Math.abs(a.z + k * (b.z - a.z) - p.z) < 4 * near + 0.5) { best = d; found = this.chordEdge[i]; }
    }
    return found;
  }
  // thickness is how much material lies under a point of the part, square to
  // its face.
  thickness(hit) {
    const n = hit.face.normal.clone(), back = new T.Raycaster(hit.point.clone().addScaledVector(n, -1e-3), n.negate());
    const far = back.intersectObject(this.partMesh).find((h) => h.distance > 1e-3);
    return far ? far.distance + 1e-3 : null;
  }

  // --- drawing
  at(t, place, shape, colour) {
    this.time = t;
    if (place) { this.setTool(shape, colour); this.groups.tool.position.set(place.x, place.y, place.z); }
    this.draw();
  }
  // draw asks for a frame: a coarse one now, the full one when nothing has
  // changed for a moment.
  draw() {
    this.moving = true;
    clearTimeout(this.rest);
    this.rest = setTimeout(() => { this.moving = false; requestAnimationFrame(() => { if (!this.moving) this.render(); }); }, 250);
    if (this.pending) return;
    this.pending = true;
    requestAnimationFrame(() => { this.pending = false; this.render(); });
  }
  render() {
    if (!this.w) return;
    const begin = performance.now();
    const s = this.shown, g = this.groups, coarse = this.moving && this.coarse;
    this.place();
    g.stock.visible = s.stock && !s.compare && !!this.stock;
    g.part.visible = s.part && !s.compare || (!this.stock && !s.compare);
    g.edges.visible = true; g.others.visible = true;
    g.compare.visible = s.compare; g.path.visible = s.path; g.vise.visible = g.fixtures.visible = s.vise;
    g.tool.visible = s.stock && !s.compare && !!this.toolKey;
    if (this.stock && g.stock.visible) {
      const f = coarse ? this.coarse : this.fine;
      f.show(this.time);
      this.coarse.mesh.visible = f === this.coarse; this.fine.mesh.visible = f === this.fine;
    }
    this.cost = performance.now() - begin;
    this.gl.render(this.scene, this.camera);
    this.frames++;
    if (!this.stock && !this.partMesh) return;
    document.body.dataset.drawn = this.frames;
  }
}

function clear(group) {
  for (const o of [...group.children]) { o.geometry?.dispose(); o.material?.dispose?.(); group.remove(o); }
}

// puor maps a deviation to the PuOr map of ColorBrewer: overcut purple, excess
// orange, in tolerance neutral; full colour at 0.2 mm.
function puor(d) {
  const mix = (a, b, k) => a.map((v, i) => v + (b[i] - v) * k);
  const white = [0.9, 0.89, 0.86];
  if (d > 0.01) return mix([0.55, 0.47, 0.72], [0.2, 0.05, 0.35], Math.min(1, d / 0.2));
  if (d < -0.05) return mix([0.97, 0.66, 0.3], [0.55, 0.22, 0.01], Math.min(1, -d / 0.5));
  return white;
}
