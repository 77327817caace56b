import { rmSync } from 'node:fs';
import { dataDir, install, owner, say, start } from './lib.mjs';

const dev = process.argv.includes('--dev');
const port = Number(process.env.PORT ?? 4310);
const data = dataDir();

install();
const other = owner(data);
if (other) {
  say(
    `The data in ${data} is already open in another Wellmorph (process ${other}); close that one first, or set WELLMORPH_DATA to another folder.`,
  );
  process.exit(1);
}
if (process.argv.includes('--fresh')) {
  say('Starting over: removing the old data …');
  rmSync(data, { recursive: true, force: true });
}
const began = Date.now();
const { server, answers } = await start({ port, data, dev });
for (const signal of ['SIGINT', 'SIGTERM']) process.on(signal, () => server.kill(signal));
server.on('exit', (code) => process.exit(code ?? 0));
if (answers)
  say(
    `\nWellmorph is at http://127.0.0.1:${port} (after ${Math.round((Date.now() - began) / 1000)} s).\nStop it with Ctrl+C. The data stays in ${data}.`,
  );
