// Photos are sent as soon as they are taken; what is refused is said beside the field, and what broke off is sent again under its own key.
export const newKey = () => crypto.randomUUID ? crypto.randomUUID() : `${Date.now()}-${Math.random()}`;

// How long a photo is sent again while the bench does not answer, ms.
const patience = 180_000;

export async function send(url, ticket, section, file, key, waiting = () => {}) {
  const body = new FormData();
  body.append('key', key);
  body.append('section', section);
  body.append('photo', file, file.name);
  const from = Date.now();
  for (let turn = 0; ; turn++) {
    try {
      const reply = await fetch(url, { method: 'POST', body, headers: { 'X-Ticket': ticket, Accept: 'application/json' } });
      if (reply.headers.has('x-disk')) return { photos: [], refused: [`${file.name} could not be kept: ${reply.headers.get('x-disk')}. Choose it again later.`] };
      if (reply.status >= 500) return { photos: [], refused: [`${file.name} could not be kept: something went wrong at the bench. Choose it again later.`] };
      if (reply.headers.get('content-type')?.includes('json')) return await reply.json();
      return { photos: [], refused: [(await reply.text()).slice(0, 300)] };
    } catch {
      if (Date.now() - from > patience) return { photos: [], refused: [`${file.name} could not be sent: the bench does not answer. It is not kept; choose it again later.`] };
      waiting();
      await new Promise(done => setTimeout(done, Math.min(500 * 2 ** turn, 4000)));
    }
  }
}

export const tooLarge = (file, most) => file.size > most ? `${file.name} has ${(file.size / 1e6).toFixed(0)} MB; at most ${(most / 1e6).toFixed(0)} MB are taken. Nothing was sent.` : null;

for (const form of /** @type {NodeListOf<HTMLFormElement>} */ (document.querySelectorAll('form[data-photos]'))) {
  const said = form.querySelector('[data-said]');
  const button = form.querySelector('button');
  button.hidden = true;
  form.addEventListener('change', async e => {
    const picked = /** @type {HTMLInputElement} */ (e.target);
    if (picked.type !== 'file' || picked.files.length === 0) return;
    const files = [...picked.files];
    const value = name => /** @type {HTMLInputElement} */ (form.querySelector(`[name=${name}]`)).value;
    const most = Number(form.dataset.most);
    const refused = [];
    let kept = 0;
    for (const [i, file] of files.entries()) {
      said.textContent = `Sending ${i + 1} of ${files.length} …`;
      const large = tooLarge(file, most);
      if (large) {
        refused.push(large);
        continue;
      }
      const answer = await send(form.action, value('__RequestVerificationToken'), value('section'), file, newKey(),
        () => { said.textContent = `The bench does not answer; ${file.name} waits and is sent again. Leave this page open.`; });
      kept += answer.photos.length;
      refused.push(...answer.refused);
    }
    picked.value = '';
    said.textContent = refused.join(' ');
    if (kept > 0 && refused.length === 0) location.reload();
    else if (kept > 0) said.textContent += ` ${kept} kept; they show when the page is opened again.`;
  });
}
