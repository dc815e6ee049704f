// What is selected: faces and edges of the part. It is lit up in the view and
// goes with the forms of the sheet.
const $ = (id) => document.getElementById(id);

export class Selection {
  constructor(view) {
    this.view = view; this.faces = new Set(); this.edges = new Set();
    view.onwindow = (box, edges) => {
      for (const i of edges ? view.edgesIn(box) : view.facesIn(box)) (edges ? this.edges : this.faces).add(i);
      this.light();
    };
    document.addEventListener('click', (e) => {
      const kept = e.target.closest?.('.kept');
      if (kept) { const list = (s) => s.split(',').filter(Boolean).map(Number); this.set(list(kept.dataset.faces), list(kept.dataset.edges)); }
    });
  }
  set(faces, edges = []) { this.faces = new Set(faces); this.edges = new Set(edges); this.light(); }
  // toggle takes the edge under the pointer in or out, or else the face.
  toggle(hit) {
    const [set, i] = hit.edge != null ? [this.edges, hit.edge] : [this.faces, hit.face];
    if (!set.delete(i)) set.add(i);
    this.light();
  }
  light() { this.view.highlight([...this.faces], [...this.edges]); this.tell(); }
  // tell writes the selection into the sheet's forms.
  tell() {
    for (const e of document.querySelectorAll('.selfaces')) e.value = [...this.faces].join();
    for (const e of document.querySelectorAll('.seledges')) e.value = [...this.edges].join();
    for (const e of document.querySelectorAll('.selshape')) e.value = this.shape ?? '';
    const n = (k, what) => (k ? `${k} ${what}${k > 1 ? 's' : ''}` : '');
    if ($('selected')) $('selected').textContent = [n(this.faces.size, 'face'), n(this.edges.size, 'edge')].filter(Boolean).join(', ') || 'nothing selected yet';
  }
}

// loops lists the loops that an edge is part of, each as its edges.
export function loops(edges, i) {
  const all = (edges[i].loops ?? []).map((l) => edges.map((_, k) => k).filter((k) => edges[k].loops.includes(l)));
  return all.filter((l) => l.length > 1);
}
