import { mkdirSync, readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { kits } from '@wellmorph/core/node/kit';
import { packAsset } from '@wellmorph/core/pipeline/asset-file';
import { FILES, lanternWith, makeLantern, solveCounts, WRITTEN } from '@wellmorph/demo/kept';

/** Writes what comes ready with the demo, from a fresh run of everything, into the folder that is named. */
const folder = process.argv[2];
for (const make of Object.values(WRITTEN)) await kits.for(make());
console.log('Solving the counts of every piece …');
const counts = solveCounts(kits.loaded);
mkdirSync(folder, { recursive: true });
writeFileSync(join(folder, FILES.counts), `${JSON.stringify(counts, null, 2)}\n`);
console.log('Making the lantern, from its form to its picture (some minutes) …');
const lantern = lanternWith(counts['storm lantern']);
const whole = await makeLantern(lantern, kits.loaded);
const file = join(folder, FILES.lantern);
writeFileSync(
  file,
  packAsset(lantern, () => new Uint8Array(), whole),
);
console.log(whole.results.map((r) => `${r.stage} ${(r.milliseconds / 1000).toFixed(1)} s`).join(', '));
console.log(`${(readFileSync(file).length / 1e6).toFixed(1)} MB in ${file}`);
