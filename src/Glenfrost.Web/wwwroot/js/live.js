// A print or a reading that goes on by itself: asked for each second, and the page anew when it is over.
const wait = ms => new Promise(done => setTimeout(done, ms));

function share(root) {
  for (const li of root.querySelectorAll('.strip-words li')) li.style.flexBasis = `${li.dataset.share}%`;
}

async function follow(live) {
  for (;;) {
    await wait(document.hidden ? 4000 : 1000);
    try {
      const answer = await fetch(live.dataset.live, { headers: { 'X-Requested-With': 'fetch' } });
      if (answer.status === 204) return location.reload();
      if (!answer.ok) continue;
      const fresh = new DOMParser().parseFromString(await answer.text(), 'text/html').querySelector('.live');
      live.replaceChildren(...fresh.childNodes);
      share(live);
      live.dataset.drawn = String(Number(live.dataset.drawn ?? 0) + 1);
    } catch {
      // The server may be away for a moment; the print goes on there.
    }
  }
}

async function reading(line) {
  for (;;) {
    await wait(700);
    try {
      const answer = await fetch(`/runs/${line.dataset.instruments}/simulated?handler=Reading`);
      if (answer.status === 204) {
        line.textContent = 'The simulated instruments are through.';
        return;
      }
      const { done, all } = await answer.json();
      line.textContent = `The simulated instruments read: ${done} of ${all}. Values appear as if typed.`;
    } catch {
      // As above.
    }
  }
}

share(document);
for (const live of document.querySelectorAll('[data-live]')) follow(live);
for (const line of document.querySelectorAll('[data-instruments]')) reading(line);
