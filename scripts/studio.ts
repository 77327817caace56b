import { writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { DataUtils } from 'three';
import { studioLevels } from '../web/src/plates/studio-levels';

/** Writes the light that pieces stand in on the paper, blurred for every roughness. */
const halves = Uint16Array.from(
  studioLevels().flatMap((l) => [...l]),
  (v) => DataUtils.toHalfFloat(v),
);
const text = Buffer.from(halves.buffer).toString('base64');
const lines = text.match(/.{1,134}/g) ?? [];
writeFileSync(
  join(process.argv[2], 'web/src/plates/studio-light.ts'),
  `// Made from studio-levels.ts by \`npm run studio\`; a test makes it anew and compares.\n\n/** Brightness as half floats, by level, face, row and column, as base64. */\nexport const LIGHT =\n${lines.map((l) => `  '${l}'`).join(' +\n')};\n`,
);
