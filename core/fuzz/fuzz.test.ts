import { beforeAll, describe, expect, it } from 'vitest';
import { InputError } from '../src/errors';
import type { Kit } from '../src/kit';
import { random } from '../src/maths/random';
import { testKit } from '../test/kit';
import { attempt } from './attempt';
import { type Case, caseOf } from './cases';
import { damagedBytes, damagedJson, damagedLines } from './mutate';
import { type Original, originals } from './originals';

/** A first stretch of what `npm run fuzz` goes on with: the same seed and number make the same file. */
const SEED = 11;
const CASES = 300;

describe('damaged files', () => {
  let all: Original[];
  let kit: Kit;
  beforeAll(async () => {
    [all, kit] = await Promise.all([originals(), testKit()]);
  });
  it('are read or refused in a sentence, whatever was done to them', async () => {
    const went = { read: 0, refused: 0 };
    const foreign: string[] = [];
    for (let number = 0; number < CASES; number++) {
      const file = caseOf(all, SEED, number);
      await attempt(file, kit).then(
        (w) => went[w.went]++,
        (error: Error) => foreign.push(`case ${number} of seed ${SEED} (${file.original}): ${error.stack}`),
      );
    }
    expect(foreign).toEqual([]);
    // Neither are all of them harmless, nor do all break at the door.
    expect(went.read).toBeGreaterThan(CASES / 20);
    expect(went.refused).toBeGreaterThan(CASES / 2);
  });
  it('are the same for the same seed and number, in whatever order they are made', () => {
    const one = [3, 9, 27].map((n) => caseOf(all, 5, n));
    const two = [27, 9, 3].map((n) => caseOf(all, 5, n)).reverse();
    expect(two).toEqual(one);
    expect(caseOf(all, 6, 3).bytes).not.toEqual(one[0].bytes);
  });
  it('every original is sound before it is damaged, and damage leaves the original as it was', async () => {
    const draw = random(2);
    const text = new TextEncoder();
    for (const o of all) {
      const whole: Case | null =
        o.kind === 'text'
          ? { fileName: `x.${o.format}`, bytes: text.encode(o.text), original: o.name }
          : o.kind === 'glb' || o.kind === 'binary'
            ? { fileName: `x.${o.kind === 'glb' ? 'glb' : o.format}`, bytes: o.bytes, original: o.name }
            : o.kind === 'gltf'
              ? { fileName: 'x.gltf', bytes: text.encode(JSON.stringify(o.json)), original: o.name }
              : null;
      if (whole) expect((await attempt(whole, kit)).went, o.name).toBe('read');
      const before = JSON.stringify(o);
      for (let i = 0; i < 20; i++) caseOf([o], 1, i);
      if (o.kind === 'glb' || o.kind === 'binary') damagedBytes(o.bytes, draw);
      if (o.kind === 'gltf') damagedJson(o.json, draw);
      if (o.kind === 'text') damagedLines(o.text, draw);
      expect(JSON.stringify(o)).toBe(before);
    }
  });
  it('what is no sentence of ours is told as it is, and so is a figure that is none', async () => {
    // A check that can't fail would be none: the attempt itself is given what breaks it.
    const broken = { fileName: 'x.obj', bytes: null as unknown as Uint8Array, original: '' };
    await expect(attempt(broken, kit)).rejects.not.toBeInstanceOf(InputError);
  });
});
