// node post-readings.mjs http://127.0.0.1:5080 RUN TOKEN ASPECT numbers.txt : each line of the file goes to the next open cell.
import { readFileSync } from 'node:fs';
const [, , bench, run, token, aspect, file] = process.argv;
for (const [i, text] of readFileSync(file, 'utf8').split('\n').map(l => l.trim()).filter(Boolean).entries()) {
  const reply = await fetch(`${bench}/api/v1/runs/${run}/readings`, {
    method: 'POST', headers: { 'Content-Type': 'application/json', Authorization: `Bearer ${token}` },
    body: JSON.stringify({ key: `${file}, line ${i + 1}`, aspect, text }), // the key: posted twice, it is stored once
  });
  console.log(`${reply.status} ${await reply.text()}`);
}
