// The piece is cut where its elevation is touched: the height gives the layer, and the layer is drawn from above.
const field = () => /** @type {HTMLInputElement} */ (document.getElementById('layer'));
const drawing = () => /** @type {SVGSVGElement | null} */ (document.querySelector('#touch[data-heights] svg[data-elevation]'));

function cut(n) {
  const f = field();
  const to = Math.min(+f.max, Math.max(1, Math.round(n)));
  if (to === +f.value) return;
  f.value = String(to);
  f.dispatchEvent(new Event('input', { bubbles: true }));
}

// The drawing is to scale: first layer, then layers of one height.
function touched(e) {
  const svg = drawing();
  const [first, height] = document.getElementById('touch').dataset.heights.split(' ').map(Number);
  const z = -new DOMPoint(e.clientX, e.clientY).matrixTransform(svg.getScreenCTM().inverse()).y;
  cut(1 + Math.ceil((z - first) / height - 1e-6));
}

function ready() {
  const touch = document.getElementById('touch');
  if (!touch || !drawing() || !field()) return;
  const hint = document.getElementById('layer-hint');
  if (hint) hint.hidden = false;
  const [role, said] = ['slider', document.querySelector('#layer-view p')?.textContent.replace(/\s+/g, ' ').trim() ?? ''];
  touch.tabIndex = 0;
  touch.setAttribute('role', role);
  touch.setAttribute('aria-orientation', 'vertical');
  touch.setAttribute('aria-label', 'The piece from the front: where it is cut');
  touch.setAttribute('aria-valuemin', '1');
  touch.setAttribute('aria-valuemax', field().max);
  touch.setAttribute('aria-valuenow', field().value);
  touch.setAttribute('aria-valuetext', said);
}

const within = (e, inner = '#touch') => e.target instanceof Element && e.target.closest(inner) && drawing() && field();
document.addEventListener('pointerdown', e => {
  if (e.button || !within(e, '#touch svg[data-elevation]')) return;
  const touch = document.getElementById('touch');
  touch.setPointerCapture(e.pointerId);
  touch.focus();
  touched(e);
  e.preventDefault();
});
document.addEventListener('pointermove', e => {
  if (within(e) && document.getElementById('touch').hasPointerCapture(e.pointerId)) touched(e);
});
document.addEventListener('keydown', e => {
  if (!within(e)) return;
  const now = +field().value;
  const by = { ArrowUp: 1, ArrowDown: -1, ArrowRight: 1, ArrowLeft: -1, PageUp: 10, PageDown: -10 }[e.key];
  const to = e.key === 'Home' ? 1 : e.key === 'End' ? +field().max : by && now + by;
  if (to === undefined) return;
  e.preventDefault();
  cut(to);
});
document.addEventListener('htmx:after:settle', ready);
ready();
