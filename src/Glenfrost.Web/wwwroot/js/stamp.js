// The stamp: the moment of the key counts, not that of the answer. What can't be sent is kept and sent again with how long ago it was.
import { newKey } from './photos.js';

const form = document.getElementById('stamp-form');
if (form) start(form);

function start(form) {
  const said = document.getElementById('stamp-said');
  const list = document.getElementById('stamp-list');
  const store = `glenfrost.stamps.${form.action}`;
  const waiting = JSON.parse(localStorage.getItem(store) ?? '[]');
  const keep = () => localStorage.setItem(store, JSON.stringify(waiting));

  function press() {
    const data = new FormData(form);
    waiting.push({ key: newKey(), what: data.get('what'), note: data.get('note'), at: Date.now() });
    keep();
    said.textContent = `${data.get('what')}: stamped, asking where that was …`;
    send();
  }

  let sending = false;
  async function send() {
    if (sending) return;
    sending = true;
    while (waiting.length > 0) {
      const s = waiting[0];
      const body = new FormData(form);
      body.set('key', s.key);
      body.set('what', s.what);
      body.set('note', s.note ?? '');
      let why = '';
      body.set('ago', String(Math.max(0, Date.now() - s.at)));
      try {
        const answer = await fetch(form.action, { method: 'POST', body: new URLSearchParams(/** @type {any} */ (body)), headers: { Accept: 'application/json' } });
        why = answer.headers.get('x-disk') ?? '';
        if (answer.status >= 500) throw new Error('kept');
        const told = await answer.json();
        waiting.shift();
        keep();
        if (answer.ok) {
          said.textContent = `${told.what}: section ${told.section}, ${told.temperatureC} °C, ${told.text}`;
          const li = document.createElement('li');
          const b = document.createElement('b');
          b.textContent = told.what;
          li.append(b, ` in section ${told.section}, ${told.temperatureC} °C: ${told.text}`);
          list.append(li);
          form.elements.note.value = '';
        } else said.textContent = told.error ?? 'That could not be stamped.';
      } catch {
        said.textContent = `${why ? `${why}; ` : ''}${waiting.length} not sent; kept here and sent again`;
        await new Promise(done => setTimeout(done, 2000));
      }
    }
    sending = false;
  }

  form.addEventListener('submit', e => {
    e.preventDefault();
    press();
  });
  document.addEventListener('keydown', e => {
    if (e.key !== 's' || e.ctrlKey || e.metaKey || e.altKey || e.repeat || document.documentElement.dataset.keys === 'off') return;
    if (e.target instanceof Element && e.target.closest('input:not([type=radio]), select, textarea')) return;
    e.preventDefault();
    press();
  });
  form.dataset.ready = '1';
  send();
}
