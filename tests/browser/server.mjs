// Starts the published application on a fresh data place for one test file, and ends only the process that it started.
import { spawn } from 'node:child_process';
import { cpSync, mkdtempSync, rmSync } from 'node:fs';
import { createServer } from 'node:net';
import { networkInterfaces, tmpdir } from 'node:os';
import { dirname, join, resolve } from 'node:path';
import { fileURLToPath } from 'node:url';

const app = resolve(dirname(fileURLToPath(import.meta.url)), '../../artifacts/app');

const freePort = () => new Promise(done => {
  const s = createServer().listen(0, '127.0.0.1', () => {
    const { port } = s.address();
    s.close(() => done(port));
  });
});

export class Server {
  constructor(demo = true, lan = false) {
    this.demo = demo;
    this.lan = lan;
    this.said = '';
    this.data = mkdtempSync(join(tmpdir(), 'glenfrost-browser-'));
    this.fresh = true;
  }

  async start() {
    this.port ??= await freePort();
    this.url = `http://localhost:${this.port}`;
    if (this.demo && this.fresh) cpSync(process.env.GLENFROST_YEAR, this.data, { recursive: true });
    this.fresh = false;
    const args = [join(app, 'Glenfrost.Web.dll'), 'serve', '--data', this.data, '--port', String(this.port), ...(this.lan ? ['--lan', 'yes'] : [])];
    this.said = '';
    // It lives for a few pages: compiling them anew because they are asked for often would take longer than they do.
    const env = { ...process.env, DOTNET_TC_CallCounting: '0' };
    this.process = spawn('dotnet', args, { stdio: ['ignore', 'pipe', 'inherit'], env });
    await new Promise((ready, fail) => {
      this.process.stdout.on('data', d => {
        this.said += d;
        if (this.said.includes('listens on') && (!this.lan || this.said.includes('Device code:'))) ready();
      });
      this.process.on('exit', code => fail(new Error(`the server ended with ${code}`)));
    });
    return this;
  }

  /** The address under which other machines reach it; null where this machine has no network. */
  get lanUrl() {
    const own = Object.values(networkInterfaces()).flat().find(a => a.family === 'IPv4' && !a.internal);
    return own ? `http://${own.address}:${this.port}` : null;
  }

  /** The device code that the console shows last. */
  get code() {
    return this.said.match(/Device code: (\S+)/g).at(-1).split(' ')[2];
  }

  kill(signal = 'SIGKILL') {
    return new Promise(done => {
      this.process.removeAllListeners('exit');
      this.process.on('exit', done);
      this.process.kill(signal);
    });
  }

  async end() {
    if (this.process.exitCode === null && this.process.signalCode === null) await this.kill('SIGTERM');
    rmSync(this.data, { recursive: true, force: true });
  }
}

/** Every bench of the demo is a copy of one year: what was found on one stands on all. */
let half;

/** The address of the half-read run of the demo, found as a person would: from Today. */
export async function halfRead(page, server) {
  if (!half) {
    await page.goto(server.url);
    half = await page.locator('.lead a').getAttribute('href');
  }
  return server.url + half;
}
