// Scoring a photo again: a digit scores the aspect at hand and goes on to the next; after the last one the photo is sent.
const form = document.getElementById('blind');
if (form) {
  const groups = [...form.querySelectorAll('fieldset')];
  const open = () => groups.find(g => !g.querySelector('input:checked'));
  const light = () => {
    for (const g of groups) g.classList.toggle('now', g === open());
  };
  light();
  form.addEventListener('change', light);
  document.addEventListener('keydown', e => {
    if (e.ctrlKey || e.metaKey || e.altKey || /** @type {Element} */ (e.target).closest?.('input[type=search]') || !/^[0-4m]$/i.test(e.key)) return;
    const group = document.activeElement?.closest?.('fieldset.aspect') ?? open();
    const box = /** @type {HTMLInputElement} */ (group?.querySelector(`input[value="${e.key.toLowerCase()}"]`));
    if (!box) return;
    e.preventDefault();
    box.checked = true;
    /** @type {HTMLElement} */ (document.activeElement)?.blur();
    light();
    if (!open()) /** @type {HTMLElement} */ (form.querySelector('.btn')).focus();
  });
}
