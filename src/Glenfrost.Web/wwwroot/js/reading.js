// The reading grid: keys score and move on without waiting for the server; each cell shows how its text fares.
import { Outbox } from './outbox.js';
import { newKey, send as sendPhoto, tooLarge } from './photos.js';

const form = /** @type {HTMLFormElement} */ (document.getElementById('scores'));
if (form) start(form, /** @type {HTMLElement} */ (form.closest('[data-run]')).dataset.run);
else if (location.hash === '#judge') settled(() => document.getElementById('verdict')?.focus({ preventScroll: true }));

// Going to a fragment takes the focus away once the page is loaded; what wants it waits for that.
function settled(then) {
  if (document.readyState === 'complete') then();
  else addEventListener('load', () => requestAnimationFrame(() => setTimeout(then)));
}

function start(form, run) {
  const ticket = form.querySelector('input[name=__RequestVerificationToken]').value;
  const rows = [...form.querySelectorAll('tbody tr')];
  const aspects = [...form.querySelectorAll('thead th[data-aspect]')].map(h => h.dataset.aspect).filter(a => a !== '');
  const cell = (section, aspect) => form.querySelector(`[data-section="${section}"][data-aspect="${aspect}"]:not(g)`);
  const next = document.getElementById('next');
  const across = /** @type {HTMLInputElement} */ (document.getElementById('across'));
  const unsent = document.getElementById('unsent');
  const ask = document.getElementById('ask');
  let lastInput = { text: '', at: 0 };

  // Which way the cells are gone through is remembered for each kind of trial.
  if (across) {
    const name = across.dataset.kind === 'temperature-tower' ? 'glenfrost.across' : `glenfrost.across.${across.dataset.kind}`;
    document.getElementById('across-label').hidden = false;
    across.checked = (localStorage.getItem(name) ?? across.dataset.usual) === '1';
    across.addEventListener('change', () => localStorage.setItem(name, across.checked ? '1' : '0'));
  }

  const outbox = new Outbox(run, ticket, answered, (n, failing) => {
    unsent.textContent = !failing || n === 0 ? ''
      : outbox.reason ? `${outbox.reason}; ${n} ${n === 1 ? 'reading is' : 'readings are'} kept in this browser and sent again`
      : `${n} not saved; kept here and sent again`;
    for (const el of form.querySelectorAll('.unsent')) el.classList.remove('unsent');
    if (failing) for (const i of outbox.items) cell(i.section, i.aspect)?.classList.add('unsent');
  });
  outbox.emptied = soFar;
  for (const a of outbox.acked()) {
    const el = cell(a.section, a.aspect);
    if (!el || !a.id || (el.dataset.reading ?? '') >= a.id) continue;
    show(el, a.text, '');
    el.dataset.reading = a.id;
    el.dataset.saved = a.text;
  }
  for (const i of outbox.items) {
    i.flying = false;
    const el = cell(i.section, i.aspect);
    if (el) show(el, i.text, 'saving');
  }
  if (outbox.items.length > 0) outbox.send();

  function show(el, text, state) {
    el.value = el.classList.contains('statesel') && text === '' ? el.dataset.usual : text;
    el.classList.remove('saving', 'questioned', 'refused', 'v0', 'v1', 'v2', 'v3', 'v4', 'vm');
    if (el.classList.contains('score') && text !== '') el.classList.add('v' + text);
    if (state) el.classList.add(state);
    // The drawing beside the table says the same.
    for (const t of document.querySelectorAll(`[data-cell="${el.dataset.section}.${el.dataset.aspect}"]`)) t.textContent = text === '' ? '–' : text;
  }

  function commit(el, text, why) {
    const { section, aspect } = el.dataset;
    if (why === undefined && text === el.dataset.saved && !outbox.items.some(i => i.section === section && i.aspect === aspect)) {
      show(el, text, '');
      return;
    }
    show(el, text, 'saving');
    outbox.put({ key: newKey(), section, aspect, text, supersedes: el.dataset.reading || null, why });
  }

  function answered(item, answer) {
    const el = cell(item.section, item.aspect);
    if (!el) return;
    const waiting = outbox.items.some(i => i.section === item.section && i.aspect === item.aspect);
    if (answer.status === 'saved' || answer.status === 'same') {
      el.dataset.reading = answer.id ?? '';
      el.dataset.saved = answer.text;
      const hidden = form.querySelector(`input[name="was.${item.section}.${item.aspect}"]`);
      if (hidden) hidden.value = answer.id ?? '';
      if (!waiting) show(el, answer.text, answer.questioned || item.bounced ? 'questioned' : '');
      el.title = answer.message ?? '';
      if (answer.questioned) say(`${el.getAttribute('aria-label')}: ${answer.message}`);
    } else if (!waiting) {
      show(el, item.text, 'refused');
      el.title = answer.message ?? '';
      if (answer.status === 'conflict') {
        el.dataset.reading = answer.id ?? '';
        el.dataset.saved = answer.text;
      }
      if (answer.status === 'why') askWhy(el, item, answer);
      else {
        el.focus();
        say(answer.message);
      }
    }
  }

  // The verdict so far is asked for apart, once nothing waits to be stored: storing never waits for it.
  let asking = 0;
  async function soFar() {
    const turn = ++asking;
    await new Promise(r => setTimeout(r, 120));
    if (turn !== asking || outbox.items.length > 0) return;
    try {
      const reply = await fetch(`/runs/${run}?handler=SoFar`, { headers: { Accept: 'application/json' }, signal: AbortSignal.timeout(8000) });
      if (!reply.ok || turn !== asking) return;
      const now = await reply.json();
      document.getElementById('sofar').textContent = now.line;
      now.states.forEach((s, i) => mark(i, s));
      if (now.notes) note(now.notes);
      document.getElementById('finish').classList.toggle('go', now.done);
    } catch { /* the next reading asks again */ }
  }

  function mark(section, state) {
    const row = rows.find(r => r.dataset.section === String(section));
    if (!row || row.className === state) return;
    row.className = state;
    const select = cell(section, 'state');
    if (select && !select.classList.contains('saving')) select.value = state;
  }

  // What a row's numbers come to, beside them: a delivered length, a mean.
  function note(notes) {
    for (const el of form.querySelectorAll('[data-note]')) el.textContent = notes[el.dataset.note] ?? '';
  }

  function say(text) {
    next.textContent = text ?? '';
  }

  function askWhy(el, item, answer) {
    ask.hidden = false;
    ask.querySelector('label').textContent = `${el.getAttribute('aria-label')}: ${answer.message}`;
    const input = /** @type {HTMLInputElement} */ (document.getElementById('ask-why'));
    input.value = '';
    input.focus();
    const done = keepNew => {
      if (keepNew && input.value.trim() === '') return input.focus();
      ask.hidden = true;
      if (keepNew) commit(el, item.text, input.value.trim());
      else show(el, el.dataset.saved, '');
      el.focus();
    };
    document.getElementById('ask-go').onclick = () => done(true);
    document.getElementById('ask-no').onclick = () => done(false);
    input.onkeydown = e => {
      if (e.key === 'Enter') { e.preventDefault(); done(true); }
      if (e.key === 'Escape') done(false);
    };
  }

  // Finishing waits for everything typed to arrive: a verdict without some of it would be another one.
  const finishing = /** @type {HTMLFormElement} */ (document.getElementById('finish-form'));
  finishing.addEventListener('submit', async e => {
    const typed = /** @type {HTMLInputElement} */ (document.activeElement);
    const isCell = typed?.dataset?.section !== undefined && !typed.classList.contains('saving') && !typed.classList.contains('statesel');
    if (isCell && typed.value.trim() !== typed.dataset.saved) commit(typed, typed.value.trim());
    if (outbox.items.length === 0 && !outbox.sending && !form.querySelector('input.refused')) return;
    e.preventDefault();
    const button = /** @type {HTMLButtonElement} */ (document.getElementById('finish'));
    button.disabled = true;
    say(`Waiting for ${outbox.items.length} to be stored …`);
    const all = await outbox.settled(10000);
    button.disabled = false;
    const refused = form.querySelectorAll('input.refused').length;
    if (all && refused === 0) finishing.submit();
    else say(all ? `${refused} ${refused === 1 ? 'cell was' : 'cells were'} refused: mend or empty ${refused === 1 ? 'it' : 'them'}, then finish.` : `${outbox.items.length} not stored yet: nothing is judged. They are kept here and sent again; finish once they are in.`);
  });

  const usable = el => !el.closest('tr').classList.contains('lost');

  function order() {
    return across?.checked
      ? rows.flatMap(r => aspects.map(a => cell(r.dataset.section, a)))
      : aspects.flatMap(a => rows.map(r => cell(r.dataset.section, a)));
  }

  function moveOn(el) {
    const list = order().filter(x => usable(x));
    const at = list.indexOf(el);
    const target = list.slice(at + 1).find(x => x.value === '') ?? list[at + 1] ?? list.find(x => x.value === '');
    if (target) focusCell(target);
    else {
      document.getElementById('finish').focus();
      say('All is read: finish reading.');
    }
  }

  function focusCell(el) {
    el.focus();
    el.select?.();
  }

  function firstEmpty() {
    // What a fault or a last good step has ended waits for nothing, empty cells or not.
    if (document.getElementById('finish').classList.contains('go')) return undefined;
    return order().find(x => usable(x) && x.value === '' && !x.closest('tr').classList.contains('failed'));
  }

  function light(el) {
    for (const g of /** @type {NodeListOf<SVGElement>} */ (document.querySelectorAll('.rows .stile'))) g.classList.toggle('now', el !== null && g.dataset.section === el.dataset.section);
    for (const h of form.querySelectorAll('thead th[data-aspect]')) h.classList.toggle('now', el !== null && h.dataset.aspect === el.dataset.aspect);
    const target = el ?? firstEmpty();
    say(target ? `Next: ${target.getAttribute('aria-label')}` : 'All is read.');
  }

  function type(el, key) {
    const now = performance.now();
    const bounced = key === lastInput.text && now - lastInput.at < 400;
    lastInput = { text: key, at: now };
    if (key === 'f') {
      const state = cell(el.dataset.section, 'state');
      show(el, el.dataset.saved, '');
      mark(Number(el.dataset.section), 'failed');
      commit(state, 'failed');
    } else {
      commit(el, key);
      const item = outbox.items.findLast(i => i.section === el.dataset.section && i.aspect === el.dataset.aspect);
      if (item && bounced) item.bounced = true;
    }
    moveOn(el);
  }

  // A number is taken as it stands, with comma or point and its unit: the server reads it. The same one twice within 0.4 s is asked about.
  function number(el) {
    const text = el.value.trim();
    const now = performance.now();
    const bounced = text !== '' && text === lastInput.text && now - lastInput.at < 400;
    lastInput = { text, at: now };
    commit(el, text);
    const item = outbox.items.findLast(i => i.section === el.dataset.section && i.aspect === el.dataset.aspect);
    if (item && bounced) item.bounced = true;
  }

  const arrows = { ArrowLeft: [0, -1], ArrowRight: [0, 1], ArrowUp: [-1, 0], ArrowDown: [1, 0] };
  form.addEventListener('keydown', e => {
    const el = e.target;
    if (e.ctrlKey || e.metaKey || e.altKey) return;
    if (el.classList.contains('score')) {
      const key = e.key.toLowerCase();
      if (/^[0-4mf]$/.test(key)) {
        e.preventDefault();
        type(el, key);
      } else if (e.key === 'Backspace' || e.key === 'Delete') {
        e.preventDefault();
        commit(el, '');
      } else if (e.key === 'Enter') {
        e.preventDefault();
        if (el.classList.contains('refused')) commit(el, el.value.trim().toLowerCase());
        moveOn(el);
      } else if (arrows[e.key]) {
        e.preventDefault();
        const y = rows.indexOf(el.closest('tr')) + arrows[e.key][0];
        const x = aspects.indexOf(el.dataset.aspect) + arrows[e.key][1];
        const target = rows[y] && aspects[x] ? cell(rows[y].dataset.section, aspects[x]) : null;
        if (target) focusCell(target);
      } else if (e.key.length === 1) {
        e.preventDefault();
        say(`"${e.key}" is no score: 0 to 4, m for missing, f for failed.`);
      }
    } else if (el.classList.contains('number')) {
      if (e.key === 'Enter') {
        e.preventDefault();
        number(el);
        moveOn(el);
      } else if (e.key === 'ArrowUp' || e.key === 'ArrowDown') {
        e.preventDefault();
        const target = rows[rows.indexOf(el.closest('tr')) + arrows[e.key][0]];
        if (target) focusCell(cell(target.dataset.section, el.dataset.aspect));
      } else if (e.key === 'Escape') show(el, el.dataset.saved, '');
    } else if (el.classList.contains('observed') && e.key === 'Enter') {
      e.preventDefault();
      commit(el, el.value.trim());
      const below = rows[rows.indexOf(el.closest('tr')) + 1];
      if (below) focusCell(cell(below.dataset.section, 'observedC'));
    }
  });

  // A touch keyboard sends no usable keydown: take what arrived in the field.
  form.addEventListener('input', e => {
    const el = e.target;
    if (!el.classList.contains('score')) return;
    const key = el.value.trim().toLowerCase().slice(-1);
    if (/^[0-4mf]$/.test(key)) type(el, key);
    else if (el.value.trim() === '') commit(el, '');
    else {
      show(el, el.dataset.saved, '');
      say(`"${key}" is no score: 0 to 4, m for missing, f for failed.`);
    }
  });
  form.addEventListener('change', e => {
    const el = e.target;
    if (el.classList.contains('number')) {
      if (el.value.trim() !== el.dataset.saved && !el.classList.contains('saving')) number(el);
    } else if (el.classList.contains('statesel') || el.classList.contains('observed')) commit(el, el.value.trim());
  });
  form.addEventListener('focusin', e => {
    if (e.target.dataset?.section !== undefined) light(e.target);
  });
  form.addEventListener('submit', e => e.preventDefault());

  // Digits typed while nothing is focused go to the cell that is named as next.
  document.addEventListener('keydown', e => {
    if (e.defaultPrevented || e.ctrlKey || e.metaKey || e.altKey || document.activeElement !== document.body || !/^[0-9]$/.test(e.key)) return;
    const target = firstEmpty();
    if (target && target.classList.contains('number')) {
      e.preventDefault();
      target.focus();
      target.value = e.key;
    } else if (target && /^[0-4]$/.test(e.key)) {
      e.preventDefault();
      type(target, e.key);
    }
  });

  // Another device may read the same run: what it put in shows here within seconds. A cell that is being typed in, waits to be sent or
  // was refused is left alone.
  const house = form.closest('[data-run]');
  let seen = Number(house.dataset.seen);
  async function look() {
    if (document.hidden) return;
    let now = null;
    try {
      const reply = await fetch(`/runs/${run}?handler=Since&seen=${seen}&stage=${house.dataset.stage}`, { headers: { Accept: 'application/json' }, signal: AbortSignal.timeout(8000) });
      if (reply.status === 200) now = await reply.json();
    } catch { return; }
    if (!now) return;
    const came = [];
    for (const c of now.cells) {
      const el = cell(c.section, c.aspect);
      if (!el || (el.dataset.reading ?? '') >= c.id) continue;
      if (el.classList.contains('refused') || outbox.items.some(i => i.section === el.dataset.section && i.aspect === el.dataset.aspect)) continue;
      if (el === document.activeElement && !el.classList.contains('score') && el.value !== el.dataset.saved) continue;
      show(el, c.text, '');
      el.dataset.reading = c.id;
      el.dataset.saved = c.text;
      const hidden = form.querySelector(`input[name="was.${c.section}.${c.aspect}"]`);
      if (hidden) hidden.value = c.id;
      el.classList.add('came');
      setTimeout(() => el.classList.remove('came'), 4000);
      came.push(c.who);
    }
    seen = now.seen;
    document.getElementById('sofar').textContent = now.line;
    now.states.forEach((s, i) => mark(i, s));
    if (now.notes) note(now.notes);
    document.getElementById('finish').classList.toggle('go', now.done);
    const others = document.getElementById('others');
    if (came.length > 0) others.textContent = came.every(w => w?.startsWith('simulated')) ? `${came.length} came from ${[...new Set(came)].join(', ')}.` : `${came.length} came from another device (${[...new Set(came)].join(', ')}).`;
    if (now.stage !== house.dataset.stage) {
      house.dataset.stage = now.stage;
      others.textContent = 'This run went on at another device: open the page again to see it. What you typed here is saved.';
    }
  }
  setInterval(look, 1500);
  document.addEventListener('visibilitychange', look);

  // A photo of a section, straight from the camera field of its row.
  for (const input of form.querySelectorAll('[data-snap]')) {
    const label = input.closest('label');
    label.hidden = false;
    input.addEventListener('change', async () => {
      const file = input.files[0];
      if (!file) return;
      const large = tooLarge(file, Number(document.getElementById('keyline').dataset.most));
      say(large ?? 'Sending the photo …');
      const answer = large ? { photos: [], refused: [] } : await sendPhoto(`/runs/${run}/photos/add`, ticket, input.dataset.snap, file, newKey(), () => say('The bench does not answer; the photo waits and is sent again. Leave this page open.'));
      input.value = '';
      if (answer.refused.length > 0) say(answer.refused.join(' '));
      for (const p of answer.photos) {
        const link = document.createElement('a');
        link.href = `/runs/${run}/photos?c=${p.id}`;
        const img = Object.assign(new Image(48, 36), { src: `/photos/${p.id}/small`, className: 'thumb', alt: 'the photo just taken' });
        link.append(img);
        label.parentElement.querySelector('a')?.remove();
        label.before(link);
        label.parentElement.classList.add('has');
        say('The photo is kept.');
      }
    });
  }

  const first = firstEmpty();
  if (!document.getElementById('notice')) {
    light(null);
    if (first && (location.hash === '#read' || location.hash === '')) settled(() => document.activeElement === document.body && first.focus({ preventScroll: location.hash === '' }));
  }
}
