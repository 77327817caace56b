import { spawnSync } from 'node:child_process';
import { mkdirSync, mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { ROOT, say } from './lib.mjs';

/** An OBJ of balls beside each other, each an object of some 240 triangles. */
function balls(count) {
  const lines = [];
  const [n, m] = [15, 9];
  let base = 1;
  for (let b = 0; b < count; b++) {
    lines.push(`o Ball ${b + 1}`);
    const at = (x) => (x + 30 * (b % 32)).toFixed(4);
    const row = 30 * Math.floor(b / 32);
    lines.push(`v ${at(0)} ${row - 10} 0`);
    for (let j = 1; j < m; j++)
      for (let i = 0; i < n; i++) {
        const [u, v] = [(2 * Math.PI * i) / n, -Math.PI / 2 + (Math.PI * j) / m];
        lines.push(
          `v ${at(10 * Math.cos(v) * Math.cos(u))} ${(row + 10 * Math.sin(v)).toFixed(4)} ${(-10 * Math.cos(v) * Math.sin(u)).toFixed(4)}`,
        );
      }
    lines.push(`v ${at(0)} ${row + 10} 0`);
    const id = (i, j) => base + 1 + (j - 1) * n + (i % n);
    const top = base + 1 + (m - 1) * n;
    for (let i = 0; i < n; i++) {
      lines.push(`f ${base} ${id(i + 1, 1)} ${id(i, 1)}`, `f ${top} ${id(i, m - 1)} ${id(i + 1, m - 1)}`);
      for (let j = 1; j < m - 1; j++)
        lines.push(`f ${id(i, j)} ${id(i + 1, j)} ${id(i + 1, j + 1)}`, `f ${id(i, j)} ${id(i + 1, j + 1)} ${id(i, j + 1)}`);
    }
    base = top + 1;
  }
  return `${lines.join('\n')}\n`;
}

/** How long the command line takes for a folder of files, and for one of a thousand parts. */
export function benchFolder() {
  const home = mkdtempSync(join(tmpdir(), 'wellmorph-folder-'));
  try {
    mkdirSync(join(home, 'many'));
    for (let i = 0; i < 12; i++) writeFileSync(join(home, 'many', `goods-${i}.obj`), balls(4 + i));
    writeFileSync(join(home, 'many', 'broken.obj'), 'v 0 0 0\nf 1 2 3\n');
    writeFileSync(join(home, 'thousand.obj'), balls(1000));
    const timed = (...args) => {
      const start = performance.now();
      const done = spawnSync(process.execPath, [join(ROOT, 'cli/bin/wellmorph.mjs'), ...args, '--quiet', '--json'], { maxBuffer: 1e9 });
      return { seconds: (performance.now() - start) / 1000, status: done.status };
    };
    timed('--version');
    const folder = timed('check', join(home, 'many'));
    say(`check of a folder of 13 files, one of them broken: ${folder.seconds.toFixed(2)} s, ends with ${folder.status}`);
    const thousand = timed('check', join(home, 'thousand.obj'));
    say(`check of 1 000 parts of 240 triangles (wanted ≤ 10 s): ${thousand.seconds.toFixed(2)} s`);
  } finally {
    rmSync(home, { recursive: true, force: true });
  }
}
