// The pairings table: one tab stop, arrows move, Enter opens, Space marks two to four to compare.
const table = document.getElementById('pairings');
const go = document.getElementById('compare-go');
if (table) {
  const rows = [...table.tBodies[0].rows].map(r => [...r.cells].slice(1).map(c => c.querySelector('a.open')));
  const all = rows.flat();
  const setStop = a => {
    for (const x of all) x.tabIndex = x === a ? 0 : -1;
  };
  setStop(all[0]);
  const marks = () => [...table.querySelectorAll('input[name=id]')];
  const count = () => {
    const n = marks().filter(m => m.checked).length;
    go.disabled = n < 2;
    go.textContent = n > 0 ? `Compare ${n} marked` : 'Compare marked';
    for (const m of marks()) m.disabled = n >= 4 && !m.checked;
  };
  count();
  table.addEventListener('change', count);
  table.addEventListener('focusin', e => {
    if (all.includes(e.target)) setStop(e.target);
  });
  table.addEventListener('keydown', e => {
    const y = rows.findIndex(r => r.includes(e.target));
    if (y < 0) return;
    const x = rows[y].indexOf(e.target);
    const step = { ArrowLeft: [0, -1], ArrowRight: [0, 1], ArrowUp: [-1, 0], ArrowDown: [1, 0] }[e.key];
    if (step) {
      e.preventDefault();
      rows[y + step[0]]?.[x + step[1]]?.focus();
    } else if (e.key === ' ') {
      e.preventDefault();
      const mark = e.target.closest('td').querySelector('input[name=id]');
      if (mark && !mark.disabled) {
        mark.checked = !mark.checked;
        count();
      }
    }
  });
}
