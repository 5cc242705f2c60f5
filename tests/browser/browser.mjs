// The browser of Debian's packages: its headless build, or the whole one where that is all there is.
import { existsSync } from 'node:fs';

export const executablePath = ['/usr/bin/chromium-headless-shell', '/usr/bin/chromium'].find(existsSync) ?? '/usr/bin/chromium-headless-shell';
