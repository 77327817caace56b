/** The biscuit tin as it would come from another program: an OBJ in millimetres, low and high, with its MTL. */

interface Ring {
  /** Height, mm. */
  y: number;
  /** How far the outline is moved inward, mm. */
  inset: number;
}

const WIDTH = 210;
const DEPTH = 140;
const CORNER = 24;

/** A rounded rectangle, counter-clockwise seen from above the xz plane's −y side, `k` segments a corner. */
function outline(inset: number, k: number): [number, number][] {
  const [w, d] = [WIDTH / 2 - inset, DEPTH / 2 - inset];
  const r = Math.max(CORNER - inset, 0.5);
  const corners: [number, number, number][] = [
    [w - r, -(d - r), 0],
    [-(w - r), -(d - r), 1],
    [-(w - r), d - r, 2],
    [w - r, d - r, 3],
  ];
  return corners.flatMap(([cx, cz, q]) =>
    Array.from({ length: k + 1 }, (_, i): [number, number] => {
      const a = (Math.PI / 2) * (q + i / k);
      return [cx + r * Math.cos(a), cz - r * Math.sin(a)];
    }),
  );
}

/** Rings joined by quads, closed with a face at each end. */
function object(name: string, material: string, rings: readonly Ring[], k: number, base: number): { text: string; vertices: number } {
  const lines = [`o ${name}`, `usemtl ${material}`];
  const n = 4 * (k + 1);
  for (const { y, inset } of rings) for (const [x, z] of outline(inset, k)) lines.push(`v ${x.toFixed(5)} ${y.toFixed(5)} ${z.toFixed(5)}`);
  const at = (j: number, i: number) => base + j * n + (i % n) + 1;
  for (let j = 0; j + 1 < rings.length; j++)
    for (let i = 0; i < n; i++) lines.push(`f ${at(j, i)} ${at(j, i + 1)} ${at(j + 1, i + 1)} ${at(j + 1, i)}`);
  lines.push(`f ${Array.from({ length: n }, (_, i) => at(0, n - 1 - i)).join(' ')}`);
  lines.push(`f ${Array.from({ length: n }, (_, i) => at(rings.length - 1, i)).join(' ')}`);
  return { text: lines.join('\n'), vertices: n * rings.length };
}

/** Rounds the end of a stack of rings with a quarter arc of `radius` in `steps`. */
function rounded(y: number, radius: number, steps: number, up: boolean): Ring[] {
  return Array.from({ length: steps + 1 }, (_, i) => {
    const a = ((up ? i : steps - i) / steps) * (Math.PI / 2);
    return { y: y + (up ? 1 : -1) * radius * (Math.sin(a) - 1), inset: radius * (1 - Math.cos(a)) };
  });
}

/** A raised bead round the wall, `height` mm across and `out` mm proud. */
function bead(y: number, height: number, out: number, steps: number): Ring[] {
  return Array.from({ length: steps + 1 }, (_, i) => {
    const t = i / steps;
    return { y: y - height / 2 + height * t, inset: -out * Math.sin(Math.PI * t) };
  });
}

const rows = (from: number, to: number, n: number): Ring[] =>
  Array.from({ length: n + 1 }, (_, i) => ({ y: from + ((to - from) * i) / n, inset: 0 }));

function file(title: string, k: number, body: Ring[], lid: Ring[]): string {
  const a = object('Body', 'Printed_tin', body, k, 0);
  const b = object('Lid', 'Bare_tin', lid, k, a.vertices);
  return `# ${title}, millimetres\nmtllib biscuit-tin.mtl\n${a.text}\n${b.text}\n`;
}

export function tinLow(): string {
  return file(
    'Biscuit tin, low',
    3,
    [
      { y: 0, inset: 0 },
      { y: 80, inset: 0 },
    ],
    [
      { y: 80.4, inset: 0 },
      { y: 96, inset: 0 },
    ],
  );
}

export function tinHigh(): string {
  const body = [
    ...rounded(0, 1.6, 6, false),
    ...rows(2, 10, 3),
    ...bead(14, 5, 0.5, 10),
    ...rows(17, 63, 12),
    ...bead(66, 5, 0.5, 10),
    ...rows(69, 78, 3),
    ...rounded(80, 1.2, 6, true),
  ];
  const lid = [...rounded(80.4, 0.8, 5, false), ...rows(82, 90, 4), ...rounded(96, 4, 10, true)];
  return file('Biscuit tin, high', 18, body, lid);
}

export const TIN_MTL = 'newmtl Printed_tin\nKd 0.72 0.25 0.19\nPm 0\nPr 0.4\n\nnewmtl Bare_tin\nKd 0.74 0.75 0.74\nPm 1\nPr 0.35\n';
