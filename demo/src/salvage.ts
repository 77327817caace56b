export const SALVAGED_MTL = 'newmtl Grey_paint\nKd 0.42 0.44 0.44\n';

/**
 * Goods washed ashore, with what goes wrong on the way from another program: a net float of many faces with ballast in it that nobody
 * sees, a crate with a face turned over and points that only look joined, an open bucket, a batten in the plane of the crate's
 * top. An OBJ in millimetres.
 */
export function salvagedGoods(): string {
  const lines = ['mtllib salvaged-goods.mtl'];
  let base = 1;
  const object = (name: string, points: number[][], faces: number[][]) => {
    lines.push(`o ${name}`, 'usemtl Grey_paint', ...points.map((p) => `v ${p.map((x) => x.toFixed(4)).join(' ')}`));
    for (const f of faces) lines.push(`f ${f.map((i) => i + base).join(' ')}`);
    base += points.length;
  };
  const cube = (s: number, x: number, y: number, height = s) => [
    [x - s, y, -s],
    [x + s, y, -s],
    [x + s, y, s],
    [x - s, y, s],
    [x - s, y + height, -s],
    [x + s, y + height, -s],
    [x + s, y + height, s],
    [x - s, y + height, s],
  ];
  const SIDES = [
    [0, 1, 2, 3],
    [4, 7, 6, 5],
    [0, 4, 5, 1],
    [1, 5, 6, 2],
    [2, 6, 7, 3],
    [3, 7, 4, 0],
  ];
  const ball = (r: number, n: number, m: number): [number[][], number[][]] => {
    const points = [[0, 60 - r, 0]];
    for (let j = 1; j < m; j++)
      for (let i = 0; i < n; i++) {
        const [a, b] = [(2 * Math.PI * i) / n, -Math.PI / 2 + (Math.PI * j) / m];
        points.push([r * Math.cos(b) * Math.cos(a), 60 + r * Math.sin(b), -r * Math.cos(b) * Math.sin(a)]);
      }
    points.push([0, 60 + r, 0]);
    const at = (i: number, j: number) => 1 + (j - 1) * n + (i % n);
    const faces: number[][] = [];
    for (let i = 0; i < n; i++) {
      faces.push([0, at(i + 1, 1), at(i, 1)], [points.length - 1, at(i, m - 1), at(i + 1, m - 1)]);
      for (let j = 1; j < m - 1; j++) faces.push([at(i, j), at(i + 1, j), at(i + 1, j + 1), at(i, j + 1)]);
    }
    return [points, faces];
  };
  object('Float', ...ball(40, 96, 48));
  object('Ballast', ...ball(12, 16, 8));
  // One face turned over, and one on points of its own.
  const crate = cube(20, 120, 0, 40);
  const own = [4, 5, 6, 7].map((i) => [crate[i][0], crate[i][1] + 0.001, crate[i][2]]);
  object('Crate', [...crate, ...own], [[3, 2, 1, 0], [8, 11, 10, 9], ...SIDES.slice(2)]);
  object(
    'Bucket',
    cube(12, 190, 0, 30),
    SIDES.filter((_, i) => i !== 1),
  );
  object('Batten', cube(8, 120, 40.001, 4), SIDES);
  return `${lines.join('\n')}\n`;
}
