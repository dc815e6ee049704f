// Ties sheet, view, ledger and strip together.
import { between, edgeText, groups } from './measure.js';
import { buffer, follow, json, onState, Path, part, state, url } from './data.js';
import { Strip, clock } from './strip.js';
import { Selection, loops } from './selection.js';
import { View } from './view.js';

const $ = (id) => document.getElementById(id);
const view = new View($('canvas'), $('axes'));
const strip = new Strip($('timeline'), (t) => show(t));
let path = new Path(), code = [], place = '', pathVersion = 0, paths = 0, stockVersion = 0, playing = false, picked = null;
const selection = new Selection(view);
window.arete = { view, strip, state, selection };

// --- what the server computed; an answer that a newer one overtook is dropped
onState(async (s, fresh) => {
  status(s);
  if (!fresh) return;
  const jobs = [], token = s.token; // s goes on changing while we wait
  if (s.place && s.place !== place) { place = s.place; jobs.push(loadModel()); }
  if (s.blocks) view.setBox(s.stock, s.part, s.grip);
  const atEnd = strip.t >= strip.total - 1e-6 || !pathVersion;
  if (s.version !== pathVersion || s.proven === s.version) jobs.push(loadPath(s));
  if (s.proven === s.version && s.proven !== stockVersion) jobs.push(loadStock(s));
  refreshSheet();
  await Promise.all(jobs);
  if (atEnd) strip.t = strip.total;
  show(Math.min(strip.t, strip.total));
  if (token === state.token) document.body.dataset.ready = token;
});
async function loadModel() {
  const at = place, shape = state.shape, [m, f, e, held, open] = await Promise.all([buffer('model.bin'), json('faces'), json('edges'), buffer('fixtures.bin'), buffer('open.bin')]);
  if (at !== place) return;
  const other = selection.shape !== shape; // not only named or placed otherwise
  selection.shape = shape;
  view.setModel(m, f); view.setEdges(e); view.setFixtures(held); view.setOpen(open); others = null;
  if (other) { chosen = null; choose(null); } else selection.tell();
  view.draw();
}
async function loadPath(s) {
  pathVersion = s.version; // asked for again once it is proven: then the moves know their lines
  const nth = ++paths, data = await buffer('path.bin');
  if (nth !== paths) return;
  path = new Path(data);
  view.setPath(path, s.blocks.map((b) => b.colour));
  selectStep();
  if (s.proven === s.version && s.total > 0) code = (await (await fetch(url('program?with_findings=yes'))).text()).split('\n');
}
async function loadStock(s) {
  const at = stockVersion = s.proven, data = await buffer('stock.bin');
  if (at !== stockVersion) return;
  view.setStock(data);
  if (view.shown.compare) view.setCompare(await buffer('compare.bin'));
}
function status(s) {
  const p = $('progress');
  p.textContent = s.error || '';
  for (const a of document.querySelectorAll('.stations a')) {
    const done = { cut: s.worked, prove: s.clean, release: s.clean }[a.dataset.station] ?? true;
    a.classList.toggle('done', !!done);
  }
  if (!s.error && busy()) watch();
  $('things')?.classList.toggle('good', !s.things); if ($('things')) $('things').textContent = s.things ? `${s.things} ${s.things === 1 ? 'thing' : 'things'} to look at` : s.proven === s.version ? 'proven' : '';
  history();
  $('limit').textContent = s.limit ? `spindle limit ${s.limit} kW` : '';
}

function history() {
  const d = document.querySelector('.sheetbody')?.dataset;
  if ($('undo') && d) { $('undo').disabled = d.undo !== 'true'; $('redo').disabled = d.redo !== 'true'; }
}
// watch shows how far the computation is until the plan shown is proven; the
// old result stays on the strip, greyed.
let latest = 0; // version of the newest plan seen on the sheet
const onSheet = () => +(document.querySelector('.sheetbody')?.dataset.version ?? 0);
const wanted = () => Math.max(state.version || 0, latest, onSheet());
const busy = () => !state.error && state.proven < wanted();
let watching = false;
async function watch() {
  if (watching) return;
  watching = true;
  while (busy()) {
    const s = await json('progress').catch(() => ({}));
    if (!busy()) break;
    $('progress').textContent = s.running ? `working it out${s.what ? ': ' + s.what : ''} ${Math.round(100 * s.share)} %` : 'stopped; change something to go on';
    state.running = true; strip.draw();
    if ($('stop')) $('stop').hidden = !s.running;
    await new Promise((ok) => setTimeout(ok, 250));
  }
  watching = false; state.running = false; strip.draw();
  $('progress').textContent = state.error || '';
  if ($('stop')) $('stop').hidden = true;
}

// --- the moment shown
function show(t) {
  strip.t = t; strip.draw();
  const at = path.at(t), b = at && state.blocks[at.step];
  $('clock').textContent = `${clock(t)} of ${clock(state.total)}`;
  $('codeline').replaceChildren(at ? clock(t) : 'no program yet', el('code', at ? code[at.line - 1] ?? '' : ''));
  const power = state.power?.[Math.floor(t / (state.slot || 1))] ?? 0;
  $('moveline').textContent = at ? `${b ? b.name : ''} · X${at.x.toFixed(2)} Y${at.y.toFixed(2)} Z${at.z.toFixed(2)} · ${at.cutting ? 'cutting' : 'rapid'} · ${power.toFixed(2)} of ${state.limit} kW` : '';
  view.at(t, at, b?.shape, b?.colour);
  $('codelist')?.querySelector('.on')?.classList.remove('on');
  const l = at && $('L' + at.line);
  if (l) { l.classList.add('on'); l.scrollIntoView({ block: 'nearest' }); }
}
const speed = () => Math.pow(1000, $('speed').value / 100);
$('speed').addEventListener('input', () => { $('speedtext').textContent = `${speed() < 10 ? speed().toFixed(1) : Math.round(speed())}×`; });
function play(on) {
  playing = on;
  $('play').firstChild.textContent = on ? '❚❚ ' : '▶ '; $('play').lastChild.textContent = on ? 'pause' : 'play';
  if (!on) return;
  if (strip.t >= strip.total - 1e-6) show(0);
  let last = performance.now();
  const step = (now) => {
    if (!playing) return;
    show(Math.min(strip.total, strip.t + ((now - last) / 1000) * speed())); last = now;
    if (strip.t >= strip.total) play(false); else requestAnimationFrame(step);
  };
  requestAnimationFrame(step);
}
$('play').addEventListener('click', () => play(!playing));
$('stop')?.addEventListener('click', () => fetch(url('stop'), { method: 'POST' }));
function move(by) {
  const i = path.find(strip.t + (by > 0 ? 1e-4 : -1e-4));
  const k = Math.max(0, Math.min(path.n - 1, by > 0 ? i : i - 1));
  if (path.n) show(path.t(k));
}
function event(by) {
  const ts = state.events.map((e) => e.t).sort((a, b) => a - b);
  const t = by > 0 ? ts.find((t) => t > strip.t + 1e-3) : ts.filter((t) => t < strip.t - 1e-3).pop();
  if (t != null) show(t);
}

// --- the sheet
const stepOf = () => document.querySelector('.sheetbody')?.dataset.step;
function selectStep() {
  const id = stepOf(), k = state.blocks.findIndex((b) => b.id === id), want = k >= 0 ? k : -1;
  if (view.pathStep !== want || view.path !== view.pathDrawn) { view.showPath(want); view.draw(); }
  for (const a of document.querySelectorAll('.stations a')) a.classList.toggle('here', a.dataset.station === document.querySelector('.sheetbody')?.dataset.station);
}
let lastStep = null, typing = false;
document.addEventListener('input', (e) => { if (e.target.closest?.('#sheet')) typing = true; });
document.addEventListener('change', () => { typing = false; });
document.addEventListener('focusout', () => { typing = false; });
// An answer that was overtaken by a newer plan is not shown; nor is a refresh of
// a page that was left meanwhile, or on which a message is being read.
document.addEventListener('htmx:before:swap', (e) => {
  const ctx = e.detail?.ctx, m = /data-version="(\d+)"/.exec(ctx?.text ?? '');
  if (m && +m[1] < wanted()) e.preventDefault();
  if (ctx?.request?.headers?.['X-Refresh'] && (ctx.request.action !== location.pathname || reading())) e.preventDefault();
});
document.addEventListener('htmx:after:swap', () => {
  const f = document.activeElement;
  if (!typing && f?.closest?.('#sheet') && f.tagName === 'INPUT' && f.type !== 'range') f.value = f.defaultValue;
  const id = stepOf();
  if (id !== lastStep || id) selectStep();
  if (id && id !== lastStep) { const b = state.blocks.find((b) => b.id === id); if (b) show(b.end); $('sheet').scrollTop = 0; }
  lastStep = id;
  wireLedger();
  selection.tell();
  history();
  if (onSheet() < latest) refreshSheet(); // an older answer slipped in
  latest = Math.max(latest, onSheet());
  if (busy()) watch();
});
// refreshSheet brings numbers and marks up to date and leaves what is being
// typed, and a message being read, alone.
const reading = () => document.querySelector('[aria-invalid], #sheet [role=alert]');
let refreshing = null, again = false;
function refreshSheet() {
  again = true;
  refreshing ??= (async () => {
    try { while (again) { again = false; await refreshOnce(); } } finally { refreshing = null; }
  })();
}
// soon waits for a request, but not for one that was dropped on the way.
const soon = (p) => Promise.race([p, new Promise((ok) => setTimeout(ok, 5000))]);
async function refreshOnce() {
  if (!$('ledger')) return;
  await soon(htmx.ajax('GET', url('ledger'), { target: '#ledger', swap: 'innerMorph' }));
  const f = document.activeElement, half = $('led-detail').contains(f) && f.type === 'text' && f.value !== f.defaultValue; // half typed
  if (chosen) { if (!half) detailed = null; choose(chosen, true); }
  if (typing || reading()) return;
  await soon(htmx.ajax('GET', location.pathname, { target: '#sheet', swap: 'innerMorph', headers: { 'X-Refresh': 'yes' } }));
}
for (const [id, act] of [['undo', 'undo'], ['redo', 'redo']]) $(id)?.addEventListener('click', () => history_(act));
async function history_(act) { if (refreshing) await soon(refreshing); htmx.ajax('POST', url(act), { target: '#sheet', swap: 'innerMorph', values: { at: location.pathname } }); }
$('help')?.addEventListener('click', () => $('keys').showModal());

// levels of the depth drawing can be dragged
document.addEventListener('pointerdown', (e) => {
  const g = e.target.closest?.('.level'), svg = g?.closest('svg');
  if (!g || g.dataset.key === 'clearance') return;
  const box = svg.getBoundingClientRect(), lo = +svg.dataset.lo, hi = +svg.dataset.hi, scale = box.height / 150;
  const z = (ev) => hi - ((ev.clientY - box.top) / scale - 8) / (150 - 16) * (hi - lo);
  let v = null;
  const drag = (ev) => { v = Math.round(z(ev) * 10) / 10; const dy = (ev.clientY - e.clientY) / scale; g.setAttribute('transform', `translate(0 ${dy})`); g.querySelector('text').textContent = `${g.dataset.key} Z${v}`; };
  const up = () => { removeEventListener('pointermove', drag); removeEventListener('pointerup', up); const f = $(g.dataset.key); if (v != null && f) { f.value = v; f.dispatchEvent(new Event('change', { bubbles: true })); } };
  addEventListener('pointermove', drag); addEventListener('pointerup', up); e.preventDefault();
});

// --- overlays and views
for (const b of document.querySelectorAll('[data-overlay]')) b.addEventListener('click', async () => {
  const k = b.dataset.overlay, on = (view.shown[k] = b.getAttribute('aria-pressed') !== 'true');
  b.setAttribute('aria-pressed', on);
  if (k === 'compare' && on) view.setCompare(await buffer('compare.bin'));
  if (k === 'section') { $('section-slider').hidden = !on; view.section(on ? $('section-at').value / 1000 : null); }
  view.draw();
});
$('section-at')?.addEventListener('input', (e) => view.section(e.target.value / 1000));
for (const b of document.querySelectorAll('[data-look]')) b.addEventListener('click', () => view.look(b.dataset.look));

// --- picking
const describe = (f) => { const r = view.faces?.[f]; return r ? `${r.kind}${r.radius ? ` R${r.radius}` : ''}${r.flat ? ` at Z${r.level}` : ''} · ${r.area} mm²${r.feature ? ` · ${r.feature} ${r.title}` : ''}` : ''; };
view.onpick = (hit, more, also) => {
  if (hit && also) { selection.toggle(hit); return; }
  if (hit && more && picked) { measure(picked, hit); return; }
  picked = hit;
  $('picked') && ($('picked').hidden = !hit);
  if (!hit) { selection.set([]); return; }
  const dev = hit.deviation;
  $('picked').textContent = dev == null ? describe(hit.face) : `${dev > 0.01 ? 'overcut' : dev < -0.05 ? 'left' : 'in tolerance'} ${Math.abs(dev).toFixed(3)} mm · ${describe(hit.face)}`;
  if (document.querySelector('.sheetbody')?.dataset.station === 'hold') $('picked').append(originButton(hit));
  if (hit.edge != null) {
    $('picked').append(Object.assign(el('p', edgeText(view.edges[hit.edge])), { id: 'edge', className: 'figures' }));
    const around = loops(view.edges, hit.edge);
    if (around.length) $('picked').append(likeButtons(around.map((l) => ['edges in its loop', l]), 'loops', (list) => selection.set([], list)));
  }
  $('picked').append(Object.assign(el('p', `Z ${hit.point.z.toFixed(3)}${hit.thick == null ? '' : ` · ${hit.thick.toFixed(3)} mm of material under it`}`), { id: 'under', className: 'figures' }));
  const like = groups(view.faces, hit.face);
  if (like.length) $('picked').append(likeButtons(like));
  const row = view.faces?.[hit.face]?.feature;
  if (row && stepOf()) $('picked').append(stepButton(row));
  if (row) choose(row); else selection.set([hit.face]);
  if (hit.edge != null) selection.toggle(hit);
};
// measure reads out how a second pick lies to the first; shift and click.
function measure(a, b) {
  document.getElementById('measured')?.remove();
  $('picked').append(Object.assign(el('p', between(a, b, view.faces[a.face], view.faces[b.face])), { id: 'measured', className: 'figures' }));
  view.highlight([a.face, b.face]);
}
// likeButtons light up all faces that a face goes with, in one way or another.
function likeButtons(all, id = 'likethis', take = (list) => selection.set(list)) {
  const row = Object.assign(el('p', 'All '), { id });
  all.forEach(([name, list], i) => {
    const b = Object.assign(el('button', `${list.length} ${name}`), { className: 'textbutton' });
    b.addEventListener('click', () => take(list));
    if (i) row.append(' · ');
    row.append(b);
  });
  return row;
}
// The other bodies of the model are fetched when one is shown.
let others = null;
document.addEventListener('change', async (e) => {
  const box = e.target.closest?.('.showbody');
  if (!box) return;
  if (!others) { others = await buffer('bodies.bin'); view.setOthers(others); }
  view.showBody(+box.value, box.checked);
});
// originButton puts the origin at the point picked, or at the axis of a hole.
function originButton(hit) {
  const f = view.faces[hit.face], p = f.axis ? [f.axis[0], f.axis[1], hit.point.z] : [hit.point.x, hit.point.y, f.flat ? f.level : hit.point.z];
  const b = Object.assign(el('button', 'Origin here'), { id: 'originhere', className: 'textbutton' });
  b.style.display = 'block';
  b.addEventListener('click', () => htmx.ajax('POST', url('setup'), { target: '#sheet', swap: 'innerMorph', values: { key: 'here', value: p.map((v) => Math.round(v * 1000) / 1000).join(',') } }));
  return b;
}
// stepButton takes the picked feature into the step whose page is open, or out
// of it.
function stepButton(feature) {
  const on = document.querySelector(`.pick.on[data-feature="${feature}"]`);
  const b = Object.assign(el('button', on ? 'Take it out of this step' : 'Cut it in this step'), { id: 'usehere', className: 'textbutton' });
  b.style.display = 'block';
  b.addEventListener('click', () => { htmx.ajax('POST', url(`steps/${stepOf()}/feature`), { target: '#sheet', swap: 'innerMorph', values: { value: feature } }); $('picked').hidden = true; picked = null; });
  return b;
}
// What the pointer is over is read out until something is picked.
view.onhover = (hit) => {
  view.canvas.style.cursor = hit ? 'pointer' : 'default';
  lightRow(hit && view.faces?.[hit.face]?.feature);
  if (picked || !$('picked')) return;
  $('picked').hidden = !hit;
  if (hit) $('picked').textContent = hit.deviation == null ? describe(hit.face) : `${Math.abs(hit.deviation).toFixed(3)} mm ${hit.deviation > 0 ? 'overcut' : 'left'} · ${describe(hit.face)}`;
};
view.canvas.addEventListener('pointerleave', () => { lightRow(''); if (!picked && $('picked')) $('picked').hidden = true; });
let chosen = null, detailed = null;
function choose(id, again = false) {
  chosen = id;
  for (const r of document.querySelectorAll('.led-row')) r.classList.toggle('on', r.dataset.feature === id);
  const r = document.querySelector(`.led-row[data-feature="${id}"]`);
  for (const a of document.querySelectorAll('.routerow')) a.classList.toggle('here', !!r && r.dataset.steps.split(',').includes(a.dataset.step));
  if (!r) { if (!again) { selection.set([]); detailed = null; if ($('led-detail')) { $('led-detail').replaceChildren(); $('addstep').hidden = true; } } return; }
  if (!again) selection.set(r.dataset.faces.split(',').filter(Boolean).map(Number));
  if (!detailed || detailed !== id || !$('led-detail').children.length) { detailed = id; detail(id); }
  $('addfeature').value = id; $('addstep').hidden = false;
}
// detail shows what is known of a feature. It does not go through htmx, whose
// queue would hold the refresh of the sheet up.
async function detail(id) {
  const text = await (await fetch(url(`features/${id}`))).text();
  if (chosen !== id) return;
  $('led-detail').innerHTML = text;
  htmx.process($('led-detail'));
}
const el = (tag, text) => Object.assign(document.createElement(tag), { textContent: text });
document.addEventListener('click', (e) => { const a = e.target.closest?.('.stepline'); if (a) { e.preventDefault(); go(`cut/${a.dataset.step}`); } });
// A row under the pointer lights its faces up, a face its row, until something
// is chosen.
document.addEventListener('pointerover', (e) => {
  const r = e.target.closest?.('.led-row');
  if (r && !chosen) view.highlight(r.dataset.faces.split(',').filter(Boolean).map(Number));
});
document.addEventListener('pointerout', (e) => { if (e.target.closest?.('.led-row') && !chosen && !picked) view.highlight([]); });
function lightRow(id) { for (const r of document.querySelectorAll('.led-row')) r.classList.toggle('near', !!id && r.dataset.feature === id); }
function go(where) { htmx.ajax('GET', url(where), { target: '#sheet', swap: 'innerMorph' }); window.history.pushState(null, '', url(where)); }
function wireLedger() { if (chosen && !document.querySelector('.led-row.on')) choose(chosen, true); }
document.addEventListener('click', (e) => { const r = e.target.closest?.('.led-row'); if (r) choose(chosen === r.dataset.feature ? null : r.dataset.feature); });
addEventListener('popstate', () => location.reload());
document.addEventListener('click', (e) => { const j = e.target.closest?.('.jump'); if (j) show(+j.dataset.time); const l = e.target.closest?.('.cl'); if (l) show(+l.dataset.t); });

// --- keys
addEventListener('keydown', (e) => {
  const typing = e.target.matches?.('input:not([type=range]),select,textarea');
  if ((e.ctrlKey || e.metaKey) && !typing && 'zy'.includes(e.key.toLowerCase())) { history_(e.key.toLowerCase() === 'z' && !e.shiftKey ? 'undo' : 'redo'); e.preventDefault(); return; }
  if (e.key === 'Escape' && !typing) { $('toroute')?.click(); return; }
  if (typing || e.ctrlKey || e.altKey || e.metaKey) return;
  const act = { ' ': () => play(!playing), ',': () => move(-1), '.': () => move(1), '[': () => event(-1), ']': () => event(1), ArrowUp: () => $('prevstep')?.click(), ArrowDown: () => $('nextstep')?.click() }[e.key];
  if (act && !(e.key === ' ' && e.target.matches?.('button,a,summary'))) { act(); e.preventDefault(); }
});

follow();
