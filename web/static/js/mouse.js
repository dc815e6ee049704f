// Mouse and keys of the view: a drag turns, with the right button or Shift it
// pans, with Ctrl it draws a window; the wheel zooms about the pointer; a click
// picks.
export function listen(view) {
  const c = view.canvas;
  let last = null, far = 0, from = null; // from: corner of a window being drawn
  const frame = document.createElement('div');
  frame.className = 'windowframe'; frame.hidden = true;
  c.parentElement.append(frame);
  const corners = (e) => {
    const r = c.getBoundingClientRect(), x = e.clientX - r.left, y = e.clientY - r.top;
    return [Math.min(x, from[0] - r.left), Math.min(y, from[1] - r.top), Math.max(x, from[0] - r.left), Math.max(y, from[1] - r.top)];
  };
  c.addEventListener('contextmenu', (e) => e.preventDefault());
  c.addEventListener('pointerdown', (e) => { last = [e.clientX, e.clientY]; far = 0; from = e.ctrlKey || e.metaKey ? last : null; c.setPointerCapture(e.pointerId); });
  c.addEventListener('pointermove', (e) => {
    if (!last) { view.onhover?.(view.pick(e)); return; }
    const dx = e.clientX - last[0], dy = e.clientY - last[1];
    last = [e.clientX, e.clientY]; far += Math.abs(dx) + Math.abs(dy);
    if (far < 4) return;
    if (from) {
      const [x0, y0, x1, y1] = corners(e);
      frame.hidden = false; Object.assign(frame.style, { left: `${x0}px`, top: `${y0}px`, width: `${x1 - x0}px`, height: `${y1 - y0}px` });
      return;
    }
    if (e.buttons & 2 || e.buttons & 4 || e.shiftKey) view.pan(dx, dy);
    else { view.yaw += dx * 0.008; view.pitch = Math.max(-1.57, Math.min(1.57, view.pitch + dy * 0.008)); }
    view.draw();
  });
  c.addEventListener('pointerup', (e) => { const click = last && far < 4; last = null;
    if (click && e.button === 0) view.onpick?.(view.pick(e), e.shiftKey, e.ctrlKey || e.metaKey);
    else if (from && !frame.hidden) view.onwindow?.(corners(e), e.shiftKey);
    frame.hidden = true; from = null;
  });
  c.addEventListener('wheel', (e) => {
    e.preventDefault();
    const r = c.getBoundingClientRect(), k = Math.exp(-e.deltaY * 0.0012);
    const mx = e.clientX - r.left - view.w / 2, my = e.clientY - r.top - view.h / 2;
    view.pan(-mx, -my); view.zoom = Math.max(0.05, Math.min(400, view.zoom * k)); view.pan(mx, my);
    view.draw();
  }, { passive: false });
  c.addEventListener('keydown', (e) => {
    const step = { ArrowLeft: [-0.1, 0], ArrowRight: [0.1, 0], ArrowUp: [0, -0.1], ArrowDown: [0, 0.1] }[e.key];
    if (step) { view.yaw += step[0]; view.pitch = Math.max(-1.57, Math.min(1.57, view.pitch + step[1])); view.draw(); e.preventDefault(); e.stopPropagation(); }
    if (e.key === '+' || e.key === '-') { view.zoom *= e.key === '+' ? 1.15 : 1 / 1.15; view.draw(); }
  });
}
