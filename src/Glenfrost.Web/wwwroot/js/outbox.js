// Readings that the server has not acknowledged yet. They are kept in this browser and sent again under their own key,
// so that a lost line, a reload or a killed server neither loses nor doubles one. Each has a place of its own in the
// browser's storage, so that two tabs on one run don't write over each other's.
export class Outbox {
  constructor(run, ticket, onAnswer, onCount) {
    this.place = `glenfrost.outbox.${run}.`;
    this.ackPlace = `glenfrost.acked.${run}`;
    this.url = `/runs/${run}?handler=Reading`;
    this.ticket = ticket;
    this.onAnswer = onAnswer;
    this.onCount = onCount;
    this.sending = false;
    this.failing = false;
    /** What is wrong at the server, in a few words; empty where nobody knows. */
    this.reason = '';
    this.timer = 0;
    this.wait = 1000;
    /** @type {(() => void) | undefined} called once nothing waits any more */
    this.emptied = undefined;
    this.items = Object.keys(localStorage).filter(k => k.startsWith(this.place)).map(k => JSON.parse(localStorage.getItem(k)))
      .sort((a, b) => a.typedAt - b.typedAt);
    addEventListener('online', () => this.send());
  }

  keep(item) {
    localStorage.setItem(this.place + item.key, JSON.stringify({ ...item, flying: false }));
  }

  drop(item) {
    localStorage.removeItem(this.place + item.key);
  }

  // Resolves once nothing waits any more: true where all has arrived, false after the time given.
  settled(ms) {
    if (this.items.length === 0 && !this.sending) return Promise.resolve(true);
    this.send();
    return new Promise(done => {
      const until = Date.now() + ms;
      const look = () => (this.items.length === 0 && !this.sending ? done(true) : Date.now() > until ? done(false) : setTimeout(look, 50));
      look();
    });
  }

  tell() {
    this.onCount(this.items.length, this.failing === true);
  }

  // A page that was asked for just before an answer came may show the cell as it was: what was acknowledged in the last
  // minute is remembered, so that it can be shown there too. Ids sort by time: the later one stands.
  acked() {
    return JSON.parse(localStorage.getItem(this.ackPlace) ?? '[]').filter(a => Date.now() - a.at < 60_000);
  }

  remember(item, answer) {
    const rest = this.acked().filter(a => a.section !== item.section || a.aspect !== item.aspect);
    const acked = { section: item.section, aspect: item.aspect, id: answer.id, text: answer.text, at: Date.now() };
    localStorage.setItem(this.ackPlace, JSON.stringify([...rest, acked]));
  }

  put(item) {
    // A newer text for a cell whose older one was never sent takes its place.
    const at = this.items.findIndex(i => i.section === item.section && i.aspect === item.aspect && !i.flying);
    const kept = { ...item, typedAt: Date.now(), supersedes: at >= 0 ? this.items[at].supersedes : item.supersedes };
    this.keep(kept);
    if (at >= 0) this.drop(this.items.splice(at, 1, kept)[0]);
    else this.items.push(kept);
    this.send();
    this.tell();
  }

  async send() {
    if (this.sending) return;
    this.sending = true;
    clearTimeout(this.timer);
    while (this.items.length > 0) {
      const item = this.items[0];
      item.flying = true;
      const body = new URLSearchParams({
        key: item.key, section: item.section, aspect: item.aspect, text: item.text, supersedes: item.supersedes ?? '', why: item.why ?? '',
      });
      let answer;
      try {
        const reply = await fetch(this.url, { method: 'POST', body, headers: { 'X-Ticket': this.ticket }, signal: AbortSignal.timeout(15000) });
        // A server that fails has not said what becomes of this one: it is kept, and where the disk is to blame the server says so.
        this.reason = reply.headers.get('x-disk') ?? '';
        answer = reply.status < 500 && reply.headers.get('content-type')?.includes('json') ? await reply.json() : null;
      } catch {
        this.reason = '';
        answer = null;
      }
      if (answer === null) {
        item.flying = false;
        this.failing = true;
        this.tell();
        this.timer = setTimeout(() => this.send(), this.wait);
        this.wait = Math.min(this.wait * 2, 8000);
        break;
      }
      this.wait = 1000;
      this.failing = false;
      this.drop(this.items.shift());
      // What waits for the same cell was typed over the reading that stands there now.
      if (answer.id) for (const later of this.items.filter(i => i.section === item.section && i.aspect === item.aspect)) {
        later.supersedes = answer.id;
        this.keep(later);
      }
      if (answer.status === 'saved' || answer.status === 'same') this.remember(item, answer);
      // What a page makes of an answer is its own affair: a fault there must not keep the next reading from being sent.
      try {
        this.tell();
        this.onAnswer(item, answer);
      } catch (fault) {
        reportError(fault);
      }
    }
    this.sending = false;
    if (this.items.length === 0) this.emptied?.();
  }
}
