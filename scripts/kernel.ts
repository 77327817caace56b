import { writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { kernelFile } from '../core/node/kernel';

/** Compiles the ray kernel and writes it where the core reads it: `kernel.ts ROOT`. */
writeFileSync(join(process.argv[2], 'core/src/rays/kernel/code.ts'), await kernelFile());
