// A part is pointed at: the height on its drawing is a layer, which ends a zone of the plan or is where it failed.
const drawing = () => /** @type {SVGSVGElement | null} */ (document.querySelector('svg[data-part]'));
const box = () => /** @type {HTMLElement | null} */ (document.getElementById('pointed'));
let at = 0;

const height = () => +drawing().dataset.part;
const layers = () => +drawing().dataset.layers;

/** The zone in which a layer lies, as the drawing has it; null where there is none. */
const zoneOf = n => /** @type {SVGElement | undefined} */ ([...drawing().querySelectorAll('g[data-zone]')]
  .find(g => g instanceof SVGElement && +g.dataset.first <= n && n <= +g.dataset.last));

function point(n) {
  const svg = drawing();
  at = Math.min(layers(), Math.max(1, Math.round(n)));
  const mm = at * height();
  const [x, , w] = svg.getAttribute('viewBox').split(' ').map(Number);
  svg.querySelector('.pointed-at').setAttribute('d', `M${x} ${-mm}H${x + w}`);
  const zone = zoneOf(at)?.textContent.trim() ?? '';
  const said = `Layer ${at}, ${mm.toFixed(1)} mm${zone ? `: ${zone}` : ''}`;
  box().hidden = false;
  box().querySelector('.said').textContent = said;
  box().querySelector('button').hidden = false;
  svg.setAttribute('aria-valuenow', String(at));
  svg.setAttribute('aria-valuetext', said);
}

function pointed(e) {
  const z = -new DOMPoint(e.clientX, e.clientY).matrixTransform(drawing().getScreenCTM().inverse()).y;
  point(Math.ceil(z / height() - 1e-6));
}

function ready() {
  const svg = drawing();
  if (!svg || !box()) return;
  svg.setAttribute('tabindex', '0');
  svg.setAttribute('role', 'slider');
  svg.setAttribute('aria-orientation', 'vertical');
  svg.setAttribute('aria-valuemin', '1');
  svg.setAttribute('aria-valuemax', String(layers()));
  if (at) point(at);
  else {
    box().hidden = false;
    box().querySelector('.said').textContent = 'Point at the part: which layer is it?';
    box().querySelector('button').hidden = true;
    svg.setAttribute('aria-valuenow', '1');
    svg.setAttribute('aria-valuetext', 'no layer pointed at yet');
  }
}

const within = e => e.target instanceof Element && e.target.closest('svg[data-part]') && box();
document.addEventListener('pointerdown', e => {
  if (e.button || !within(e)) return;
  drawing().setPointerCapture(e.pointerId);
  drawing().focus();
  pointed(e);
  e.preventDefault();
});
document.addEventListener('pointermove', e => { if (within(e) && drawing().hasPointerCapture(e.pointerId)) pointed(e); });
document.addEventListener('keydown', e => {
  if (!within(e) || !(e.target instanceof SVGElement)) return;
  const by = { ArrowUp: 1, ArrowDown: -1, ArrowRight: 1, ArrowLeft: -1, PageUp: 10, PageDown: -10 }[e.key];
  const to = e.key === 'Home' ? 1 : e.key === 'End' ? layers() : by && at + by;
  if (to === undefined) return;
  e.preventDefault();
  e.stopPropagation();
  point(to);
});

/** Tops of zones are sorted in: the new one takes its place, those above it move up. */
function endZone() {
  const fields = [...document.querySelectorAll('input[name^="zone"][name$="Mm"]')].map(f => /** @type {HTMLInputElement} */ (f));
  const mm = (at * height()).toFixed(2).replace(/\.?0+$/, '');
  const tops = fields.map(f => f.value.trim()).filter(v => v.length > 0);
  const said = box().querySelector('.said');
  if (tops.some(v => +v === +mm)) { said.textContent = `A zone ends at ${mm} mm already.`; return; }
  if (tops.length === fields.length) { said.textContent = `All ${fields.length} zones have an end: empty one first.`; return; }
  const sorted = [...tops, mm].sort((a, b) => +a - +b);
  fields.forEach((f, i) => { f.value = sorted[i] ?? ''; });
  fields[sorted.indexOf(mm)].dispatchEvent(new Event('input', { bubbles: true }));
}

/** The layer goes into its zone's cell, as if it had been typed there. */
function failHere() {
  const zone = zoneOf(at);
  const cell = zone && /** @type {HTMLInputElement | null} */ (
    document.querySelector(`input[data-section="${zone.dataset.zone}"][data-aspect="failedAtLayer"]`));
  if (!cell) return;
  cell.focus();
  cell.value = String(at);
  cell.dispatchEvent(new Event('change', { bubbles: true }));
}

document.addEventListener('click', e => {
  if (!(e.target instanceof Element) || !at) return;
  if (e.target.closest('#zone-here')) endZone();
  if (e.target.closest('#failed-here')) failHere();
});
document.addEventListener('htmx:after:settle', ready);
ready();
