// A file dropped anywhere on the page is sent as if it had been chosen in the form.
const form = /** @type {HTMLFormElement} */ (document.getElementById('drop-file'));
const input = /** @type {HTMLInputElement} */ (document.getElementById('file'));
const going = /** @type {HTMLElement} */ (form.querySelector('.going'));

form.addEventListener('submit', () => {
  const size = [...input.files].reduce((sum, f) => sum + f.size, 0);
  going.textContent = `Sending ${[...input.files].map(f => f.name).join(', ')} (${(size / 1e6).toFixed(1)} MB) and looking at it …`;
  going.hidden = false;
});

document.addEventListener('dragover', e => {
  if (![...e.dataTransfer.types].includes('Files')) return;
  e.preventDefault();
  form.classList.add('over');
});
document.addEventListener('dragleave', e => { if (e.relatedTarget === null) form.classList.remove('over'); });
document.addEventListener('drop', e => {
  if (!e.dataTransfer.files.length) return;
  e.preventDefault();
  form.classList.remove('over');
  input.files = e.dataTransfer.files;
  form.requestSubmit();
});
