// The pairings table: one tab stop, arrows move, Enter opens, Space marks two to four to compare.
const table = /** @type {HTMLTableElement} */ (document.getElementById('pairings'));
const go = /** @type {HTMLButtonElement} */ (document.getElementById('compare-go'));
if (table) {
  const rows = [...table.tBodies[0].rows].map(r => [...r.cells].slice(1).map(c => /** @type {HTMLAnchorElement} */ (c.querySelector('a.open'))));
  const all = rows.flat();
  const setStop = a => {
    for (const x of all) x.tabIndex = x === a ? 0 : -1;
  };
  setStop(all[0]);
  const marks = () => /** @type {HTMLInputElement[]} */ ([...table.querySelectorAll('input[name=id]')]);
  const count = () => {
    const n = marks().filter(m => m.checked).length;
    go.disabled = n < 2;
    go.textContent = n > 0 ? `Compare ${n} marked` : 'Compare marked';
    for (const m of marks()) m.disabled = n >= 4 && !m.checked;
  };
  count();
  table.addEventListener('change', count);
  table.addEventListener('focusin', e => {
    const to = /** @type {HTMLAnchorElement} */ (e.target);
    if (all.includes(to)) setStop(to);
  });
  table.addEventListener('keydown', e => {
    const at = /** @type {HTMLAnchorElement} */ (e.target);
    const y = rows.findIndex(r => r.includes(at));
    if (y < 0) return;
    const x = rows[y].indexOf(at);
    const step = { ArrowLeft: [0, -1], ArrowRight: [0, 1], ArrowUp: [-1, 0], ArrowDown: [1, 0] }[e.key];
    if (step) {
      e.preventDefault();
      rows[y + step[0]]?.[x + step[1]]?.focus();
    } else if (e.key === ' ') {
      e.preventDefault();
      const mark = /** @type {HTMLInputElement} */ (rows[y][x].closest('td').querySelector('input[name=id]'));
      if (mark && !mark.disabled) {
        mark.checked = !mark.checked;
        count();
      }
    }
  });
}
