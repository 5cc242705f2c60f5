// Single keys act outside fields only: t, p, f, r, g, l jump, / finds, ? shows the keys. Preferences switch them off.
document.documentElement.classList.add('js');
const inField = e => e.target instanceof Element && e.target.closest('input, select, textarea, [contenteditable]') !== null;
const panel = document.getElementById('keys');
const opener = document.getElementById('keys-open');

function toggleKeys(show = panel.hidden) {
  panel.hidden = !show;
  opener.setAttribute('aria-expanded', String(show));
  if (show) panel.scrollIntoView({ block: 'nearest' });
}

if (opener) {
  opener.hidden = false;
  opener.addEventListener('click', () => toggleKeys());
}

document.addEventListener('keydown', e => {
  if (e.key === 'Escape') {
    const found = document.getElementById('found');
    if (found) found.innerHTML = '';
    if (panel && !panel.hidden) toggleKeys(false);
    return;
  }
  if (document.documentElement.dataset.keys === 'off' || e.ctrlKey || e.metaKey || e.altKey || e.defaultPrevented || inField(e)) return;
  if (e.key === '/') {
    e.preventDefault();
    document.getElementById('find')?.focus();
  } else if (e.key === '?') {
    toggleKeys();
  } else {
    const go = /** @type {HTMLAnchorElement} */ (document.querySelector(`nav a[data-key="${CSS.escape(e.key)}"]`));
    if (go) location.assign(go.href);
  }
});

// From the find field down into its hits and back.
document.addEventListener('keydown', e => {
  const box = e.target instanceof Element ? e.target.closest('.find') : null;
  if (!box || (e.key !== 'ArrowDown' && e.key !== 'ArrowUp')) return;
  const stops = /** @type {HTMLElement[]} */ ([document.getElementById('find'), ...box.querySelectorAll('.hits a')]);
  const at = stops.indexOf(/** @type {HTMLElement} */ (document.activeElement));
  const next = stops[at + (e.key === 'ArrowDown' ? 1 : -1)];
  if (next) {
    e.preventDefault();
    next.focus();
  }
});

document.getElementById('notice')?.focus();
