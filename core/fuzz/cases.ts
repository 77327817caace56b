import { concatBytes } from '@noble/hashes/utils.js';
import { strToU8, zipSync } from 'fflate';
import { hashBytes } from '../src/hash';
import { random } from '../src/maths/random';
import { encodeMesh } from '../src/mesh/codec';
import { type Draw, damagedBytes, damagedJson, damagedLines, oneOf, whole } from './mutate';
import type { Original } from './originals';

/** A damaged file, and what it was made from. */
export interface Case {
  fileName: string;
  bytes: Uint8Array;
  original: string;
}

const text = (x: unknown): Uint8Array => strToU8(JSON.stringify(x));

/** The same file for the same seed and number, whatever was tried before. */
export function caseOf(originals: readonly Original[], seed: number, number: number): Case {
  const draw = random((Math.imul(seed, 0x9e3779b1) ^ Math.imul(number + 1, 0x85ebca6b)) >>> 0);
  for (let i = 0; i < 4; i++) draw();
  const from = oneOf(draw, originals);
  return { original: `${from.kind} ${from.name}`, ...damaged(from, draw) };
}

function damaged(from: Original, draw: Draw): { fileName: string; bytes: Uint8Array } {
  switch (from.kind) {
    case 'binary':
      return { fileName: `${from.name}.${from.format}`, bytes: damagedBytes(from.bytes, draw) };
    case 'text':
      return {
        fileName: `${from.name}.${from.format}`,
        bytes: draw() < 0.85 ? damagedLines(from.text, draw) : damagedBytes(strToU8(from.text), draw),
      };
    case 'gltf':
      return {
        fileName: `${from.name}.gltf`,
        bytes: draw() < 0.9 ? text(damagedJson(from.json, draw)) : damagedBytes(text(from.json), draw),
      };
    case 'glb':
      return { fileName: `${from.name}.glb`, bytes: draw() < 0.5 ? redescribed(from.bytes, draw) : damagedBytes(from.bytes, draw) };
    case 'asset':
      return { fileName: `${from.name}.zip`, bytes: damagedAsset(from, draw) };
  }
}

/** A binary file with its description damaged, its data as they were, all lengths right. */
function redescribed(glb: Uint8Array, draw: Draw): Uint8Array {
  const view = new DataView(glb.buffer, glb.byteOffset);
  const length = view.getUint32(12, true);
  const json = damagedJson(JSON.parse(new TextDecoder().decode(glb.subarray(20, 20 + length))), draw);
  const written = text(json);
  const padded = new Uint8Array((written.length + 3) & ~3).fill(32);
  padded.set(written);
  const head = glb.slice(0, 20);
  const out = concatBytes(head, padded, glb.subarray(20 + length));
  const counts = new DataView(out.buffer);
  counts.setUint32(8, out.length, true);
  counts.setUint32(12, padded.length, true);
  return out;
}

/** A packed asset: its document damaged, one of its meshes under its right name, or the archive itself. */
function damagedAsset({ document, meshes }: Extract<Original, { kind: 'asset' }>, draw: Draw): Uint8Array {
  const blobs = meshes.map((m) => encodeMesh(m));
  const how = whole(draw, 10);
  if (how < 4 && blobs.length > 0) {
    const i = whole(draw, blobs.length);
    blobs[i] = (how < 2 ? reheaded(blobs[i], draw) : damagedBytes(blobs[i], draw)) as (typeof blobs)[number];
  }
  let plain = JSON.parse(JSON.stringify(document)) as Record<string, unknown>;
  let named = JSON.stringify(plain);
  blobs.forEach((b, i) => {
    named = named.replaceAll(`"mesh ${i}"`, JSON.stringify(hashBytes(b)));
  });
  plain = JSON.parse(named);
  if (how >= 4 || blobs.length === 0) plain = damagedJson(plain, draw);
  const zip = zipSync(
    Object.fromEntries([['asset.json', text(plain)], ...blobs.map((b) => [`meshes/${hashBytes(b)}.mesh`, b] as [string, Uint8Array])]),
  );
  return how === 9 ? damagedBytes(zip, draw) : zip;
}

/** A stored mesh whose head says something else. */
function reheaded(blob: Uint8Array, draw: Draw): Uint8Array {
  const length = new DataView(blob.buffer, blob.byteOffset).getUint32(4, true);
  const start = (8 + length + 7) & ~7;
  const head = text(damagedJson(JSON.parse(new TextDecoder().decode(blob.subarray(8, 8 + length))), draw));
  const out = concatBytes(blob.slice(0, 8), new Uint8Array(((8 + head.length + 7) & ~7) - 8), blob.subarray(start));
  out.set(head, 8);
  new DataView(out.buffer).setUint32(4, head.length, true);
  return out;
}
