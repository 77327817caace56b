import { type Attribute, type AttributeData, cornerCount, type Domain, faceCount, makeMesh, type PolyMesh, vertexCount } from './polymesh';
import { UNLAID } from './rework';

const EMPTY = new Float64Array(0);

/** Puts meshes side by side in one, without joining any vertex. Attributes missing from one are zero there. */
export function merge(meshes: readonly PolyMesh[]): PolyMesh {
  if (meshes.length === 1) return meshes[0];
  const patches: string[] = [];
  const positions: number[] = [];
  const faceStart: number[] = [0];
  const faceVert: number[] = [];
  const names = new Map<string, { domain: Domain; size: number; make: (n: number) => AttributeData }>();
  for (const m of meshes)
    for (const a of m.attributes)
      if (!names.has(a.name))
        names.set(a.name, { domain: a.domain, size: a.size, make: (n) => new (a.data.constructor as new (n: number) => AttributeData)(n) });
  const values = new Map<string, AttributeData[]>([...names.keys()].map((n) => [n, []]));
  for (const m of meshes) {
    const base = positions.length / 3;
    for (const x of m.positions) positions.push(x);
    for (const v of m.faceVert) faceVert.push(v + base);
    for (let f = 1; f < m.faceStart.length; f++) faceStart.push(faceStart[faceStart.length - 1] + m.faceStart[f] - m.faceStart[f - 1]);
    const renamed = m.patches.map((p) => (patches.includes(p) ? patches.indexOf(p) : patches.push(p) - 1));
    const sizes = { vertex: vertexCount(m), corner: cornerCount(m), face: faceCount(m) };
    for (const [name, kind] of names) {
      const a = m.attributes.find((x) => x.name === name);
      let data = a?.data ?? kind.make(sizes[kind.domain] * kind.size);
      if (name === 'patch' && a) data = Uint32Array.from(a.data, (i) => renamed[i]);
      values.get(name)?.push(data);
    }
  }
  const attributes = [...names].map(([name, kind]): Attribute => {
    const list = values.get(name) ?? [EMPTY];
    const data = kind.make(list.reduce((n, d) => n + d.length, 0));
    let at = 0;
    for (const d of list) {
      data.set(d, at);
      at += d.length;
    }
    return { name, domain: kind.domain, size: kind.size, data };
  });
  return makeMesh({ positions, faceStart, faceVert, attributes, patches });
}

/** The same, the islands of each mesh's own layout kept apart; what is left to the flattening stays so. */
export function mergeLaid(meshes: readonly PolyMesh[]): PolyMesh {
  if (meshes.length === 1) return meshes[0];
  let next = 0;
  const renumbered = meshes.map((m) => {
    const base = next;
    return {
      ...m,
      attributes: m.attributes.map((a) => {
        if (a.name !== 'chart') return a;
        const data = Int32Array.from(a.data, (c) => (c === UNLAID ? UNLAID : c + base));
        for (const c of data) next = Math.max(next, c + 1);
        return { ...a, data };
      }),
    };
  });
  return merge(renumbered);
}
