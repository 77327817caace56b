import { Document, type Mesh, type Node, WebIO } from '@gltf-transform/core';

type Point = readonly [number, number, number];

/**
 * A tool locker as somebody else’s program would write it, in metres, without a layout: a body open in front with shelves, two doors, two
 * latches that mirror each other, and 64 rivets that are one mesh. Faces are flat but for the rivets’.
 */
export async function lockerGlb(shelves = 2): Promise<Uint8Array<ArrayBuffer>> {
  const document = new Document();
  const buffer = document.createBuffer();
  const material = document.createMaterial('Steel').setBaseColorFactor([0.32, 0.42, 0.45, 1]).setRoughnessFactor(0.5);
  const scene = document.createScene('Tool locker');
  const meshOf = (name: string, points: Point[], normals: Point[], index: number[]): Mesh =>
    document.createMesh(name).addPrimitive(
      document
        .createPrimitive()
        .setMaterial(material)
        .setIndices(document.createAccessor().setType('SCALAR').setBuffer(buffer).setArray(Uint16Array.from(index)))
        .setAttribute('POSITION', document.createAccessor().setType('VEC3').setBuffer(buffer).setArray(Float32Array.from(points.flat())))
        .setAttribute('NORMAL', document.createAccessor().setType('VEC3').setBuffer(buffer).setArray(Float32Array.from(normals.flat()))),
    );
  const put = (name: string, mesh: Mesh, at: Point, scale: Point = [1, 1, 1]): Node => {
    const node = document
      .createNode(name)
      .setMesh(mesh)
      .setTranslation([...at])
      .setScale([...scale]);
    scene.addChild(node);
    return node;
  };
  const flat = (name: string, polygons: Point[][]): Mesh => {
    const [points, normals, index]: [Point[], Point[], number[]] = [[], [], []];
    for (const polygon of polygons) {
      const n = normalOf(polygon);
      const first = points.length;
      for (const p of polygon) {
        points.push(p);
        normals.push(n);
      }
      for (let i = 2; i < polygon.length; i++) index.push(first, first + i - 1, first + i);
    }
    return meshOf(name, points, normals, index);
  };

  const [w, h, d, t] = [0.4, 0.9, 0.3, 0.01];
  put(
    'Body',
    flat('Body', [
      ...shell(w, h, d, t),
      ...Array.from({ length: shelves }, (_, i) =>
        block(
          [-w / 2 + t + 0.001, (h * (i + 1)) / (shelves + 1), -d / 2 + t + 0.001],
          [w / 2 - t - 0.001, (h * (i + 1)) / (shelves + 1) + 0.008, d / 2 - 0.03],
        ),
      ).flat(),
    ]),
    [0, 0, 0],
  );
  const door = flat('Door', block([-0.098, 0, -0.008], [0.098, h - 0.02, 0.008]));
  put('Door left', door, [-0.1, 0.01, d / 2 + 0.01]);
  put('Door right', door, [0.1, 0.01, d / 2 + 0.01]);
  const latch = flat(
    'Latch',
    prism(
      [
        [0, 0],
        [0.03, 0],
        [0.03, 0.02],
        [0.012, 0.02],
        [0.012, 0.06],
        [0, 0.06],
      ],
      0.01,
    ),
  );
  put('Latch right', latch, [0.004, 0.45, d / 2 + 0.018]);
  put('Latch left', latch, [-0.004, 0.45, d / 2 + 0.018], [-1, 1, 1]);
  const rivet = meshOf('Rivet', ...dome(0.005, 0.003, 8, 3));
  for (let i = 0; i < 64; i++) {
    const [side, row] = [i % 4, i >> 2];
    put(`Rivet ${i + 1}`, rivet, [[-0.185, -0.015, 0.015, 0.185][side], 0.03 + (row * (h - 0.06)) / 15, d / 2 + 0.018]);
  }
  return new Uint8Array(await new WebIO().writeBinary(document));
}

function normalOf(polygon: readonly Point[]): Point {
  const [n0, n1, n2] = polygon.reduce(
    (n, p, i) => {
      const q = polygon[(i + 1) % polygon.length];
      return [n[0] + (p[1] - q[1]) * (p[2] + q[2]), n[1] + (p[2] - q[2]) * (p[0] + q[0]), n[2] + (p[0] - q[0]) * (p[1] + q[1])];
    },
    [0, 0, 0],
  );
  const l = Math.hypot(n0, n1, n2);
  return [n0 / l, n1 / l, n2 / l];
}

/** A closed block between two corners. */
function block([x0, y0, z0]: Point, [x1, y1, z1]: Point): Point[][] {
  return [
    [
      [x0, y0, z1],
      [x0, y0, z0],
      [x1, y0, z0],
      [x1, y0, z1],
    ],
    [
      [x0, y1, z0],
      [x0, y1, z1],
      [x1, y1, z1],
      [x1, y1, z0],
    ],
    [
      [x0, y0, z1],
      [x1, y0, z1],
      [x1, y1, z1],
      [x0, y1, z1],
    ],
    [
      [x1, y0, z0],
      [x0, y0, z0],
      [x0, y1, z0],
      [x1, y1, z0],
    ],
    [
      [x1, y0, z1],
      [x1, y0, z0],
      [x1, y1, z0],
      [x1, y1, z1],
    ],
    [
      [x0, y0, z0],
      [x0, y0, z1],
      [x0, y1, z1],
      [x0, y1, z0],
    ],
  ];
}

/** A box with walls, open in front. */
function shell(w: number, h: number, d: number, t: number): Point[][] {
  const outer = block([-w / 2, 0, -d / 2], [w / 2, h, d / 2]);
  const inner = block([-w / 2 + t, t, -d / 2 + t], [w / 2 - t, h - t, d / 2]);
  const [a, b] = [outer[2], inner[2]];
  return [
    ...outer.filter((_, i) => i !== 2),
    ...inner.filter((_, i) => i !== 2).map((p) => [...p].reverse()),
    ...a.map((p, i): Point[] => [p, a[(i + 1) % 4], b[(i + 1) % 4], b[i]]),
  ];
}

/** An outline in x and y, counter-clockwise, drawn out along z. */
function prism(outline: readonly (readonly [number, number])[], depth: number): Point[][] {
  const at = (z: number) => outline.map(([x, y]): Point => [x, y, z]);
  const [front, back] = [at(depth), at(0)];
  return [
    front,
    [...back].reverse(),
    ...front.map((p, i): Point[] => [p, back[i], back[(i + 1) % back.length], front[(i + 1) % front.length]]),
  ];
}

/** A flat dome on z = 0, smooth, without its foot. */
function dome(r: number, height: number, sides: number, rings: number): [Point[], Point[], number[]] {
  const [points, normals, index]: [Point[], Point[], number[]] = [[], [], []];
  for (let j = 0; j <= rings; j++)
    for (let i = 0; i < sides; i++) {
      const [a, b] = [(2 * Math.PI * i) / sides, (Math.PI / 2) * (j / rings)];
      if (j === rings && i > 0) continue;
      points.push([r * Math.cos(b) * Math.cos(a), r * Math.cos(b) * Math.sin(a), height * Math.sin(b)]);
      const n: Point = [Math.cos(b) * Math.cos(a) * height, Math.cos(b) * Math.sin(a) * height, Math.sin(b) * r];
      const l = Math.hypot(...n);
      normals.push([n[0] / l, n[1] / l, n[2] / l]);
    }
  for (let j = 0; j < rings; j++)
    for (let i = 0; i < sides; i++) {
      const [p, q] = [j * sides + i, j * sides + ((i + 1) % sides)];
      if (j + 1 === rings) index.push(p, q, rings * sides);
      else index.push(p, q, q + sides, p, q + sides, p + sides);
    }
  return [points, normals, index];
}
