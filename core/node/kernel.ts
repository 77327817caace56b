import { readFile } from 'node:fs/promises';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import asc from 'assemblyscript/asc';

const SOURCE = fileURLToPath(new URL('../src/rays/kernel/assembly', import.meta.url));

/** One build of the kernel by its compiler. @throws Error with what the compiler says */
async function compiled(flags: string[]): Promise<string> {
  let made: Uint8Array | undefined;
  const { error, stderr } = await asc.main(
    [
      'index.ts',
      '-o',
      'kernel.wasm',
      '--runtime',
      'stub',
      '--noAssert',
      '--importMemory',
      '--enable',
      'simd',
      '-O3',
      '--converge',
      ...flags,
    ],
    {
      readFile: (name) => readFile(join(SOURCE, name), 'utf8').catch(() => null),
      writeFile: (name, contents) => {
        if (name === 'kernel.wasm') made = contents as Uint8Array;
      },
      listFiles: () => [],
    },
  );
  if (error || !made) throw new Error(`The kernel could not be compiled: ${error?.message}\n${stderr.toString()}`);
  return Buffer.from(made).toString('base64');
}

/** The file the core reads the kernel from: two builds, one for a memory of its own and one for a memory that threads share. */
export async function kernelFile(): Promise<string> {
  const lines = (name: string, code: string) =>
    `export const ${name} =\n${(code.match(/.{1,120}/g) ?? []).map((l) => `  '${l}'`).join(' +\n')};\n`;
  return [
    '// Compiled from assembly/ by `npm run kernel`; a test compiles it anew and compares the bytes.\n',
    '\n/** For a memory that one thread has for itself, as base64. */\n',
    lines('KERNEL', await compiled([])),
    '\n/** For a memory that several threads share, as base64. */\n',
    lines('SHARED_KERNEL', await compiled(['--sharedMemory', '--maximumMemory', '65536', '--enable', 'threads'])),
  ].join('');
}
