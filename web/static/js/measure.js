// Measuring between two picked faces, and finding faces like one.

const dot = (a, b) => a[0] * b[0] + a[1] * b[1] + a[2] * b[2];
const sub = (a, b) => [a[0] - b[0], a[1] - b[1], a[2] - b[2]];
const cross = (a, b) => [a[1] * b[2] - a[2] * b[1], a[2] * b[0] - a[0] * b[2], a[0] * b[1] - a[1] * b[0]];
const size = (a) => Math.sqrt(dot(a, a));
const mm = (v) => `${v.toFixed(3)} mm`;

// between says how two picks lie to each other: {face, point} and the rows of
// their faces, with dir (normal of a plane, axis of a round face) and at.
export function between(a, b, fa, fb) {
  const p = [a.point.x, a.point.y, a.point.z], q = [b.point.x, b.point.y, b.point.z], d = sub(q, p);
  const parts = [relation(fa, fb), `points ${mm(size(d))} apart`, `ΔX ${d[0].toFixed(3)} ΔY ${d[1].toFixed(3)} ΔZ ${d[2].toFixed(3)}`];
  return parts.filter(Boolean).join(' · ');
}

function relation(fa, fb) {
  if (!fa?.dir || !fb?.dir) return '';
  const c = Math.min(1, Math.abs(dot(fa.dir, fb.dir))), off = sub(fb.at, fa.at);
  const flatA = fa.kind === 'plane', flatB = fb.kind === 'plane';
  if (flatA && flatB) {
    if (c > 1 - 1e-9) return `parallel, ${mm(Math.abs(dot(off, fa.dir)))} apart`;
    return `at ${((Math.acos(c) * 180) / Math.PI).toFixed(3)}°`;
  }
  if (!flatA && !flatB) {
    if (c > 1 - 1e-9) return `axes ${mm(size(cross(off, fa.dir)))} apart`;
    return `axes at ${((Math.acos(c) * 180) / Math.PI).toFixed(3)}°`;
  }
  const plane = flatA ? fa : fb;
  if (c < 1e-9) return `axis ${mm(Math.abs(dot(off, plane.dir)))} from the plane`;
  return `axis at ${(90 - (Math.acos(c) * 180) / Math.PI).toFixed(3)}° to the plane`;
}

// alike returns the numbers of the faces of one kind with the same radius; of
// level planes, those at the same level.
export function alike(faces, i) {
  const f = faces[i];
  return faces.map((_, k) => k).filter((k) => faces[k].kind === f.kind && (f.kind === 'plane'
    ? (f.flat ? faces[k].flat && faces[k].level === f.level && dot(faces[k].dir, f.dir) > 0 : !faces[k].flat && dot(faces[k].dir, f.dir) > 1 - 1e-9)
    : Math.abs((faces[k].radius || 0) - (f.radius || 0)) < 1e-3));
}

// tangent returns the faces that go on smoothly from one.
export function tangent(faces, i) {
  const out = [i];
  for (let k = 0; k < out.length; k++) for (const n of faces[out[k]].smooth ?? []) if (!out.includes(n)) out.push(n);
  return out;
}

// groups lists what can be picked along with a face: a name and the faces.
export function groups(faces, i) {
  const f = faces[i], where = (test) => faces.map((_, k) => k).filter((k) => test(faces[k]));
  const all = [['like this', alike(faces, i)], ['tangent', tangent(faces, i)]];
  if (f.feature) all.push(['of its feature', where((g) => g.feature === f.feature)]);
  if (f.colour) all.push(['of its colour', where((g) => g.colour === f.colour)]);
  all.push([`of kind ${f.kind}`, where((g) => g.kind === f.kind)]);
  const seen = new Set();
  return all.filter(([, list]) => list.length > 1 && !seen.has(list.join()) && seen.add(list.join()));
}

// edgeText reads an edge out.
export const edgeText = (e) => `${e.kind} edge, ${mm(e.length)} long${e.radius ? ` · R${e.radius} ⌀${Math.round(2e4 * e.radius) / 1e4}` : ''}${e.kind === 'arc' ? ` · ${e.angle}°` : ''}`;
