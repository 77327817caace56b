/**
 * Part 21 files (ISO 10303-21) written for the checks, by the entities of ISO 10303-42 as application protocol 214 has them. Lengths in mm
 * unless the file says otherwise.
 */
type Point = readonly [number, number, number];

/** A number as Part 21 has it: with a point, whatever else. */
const real = (x: number): string => (Number.isInteger(x) ? `${x}.` : x.toExponential(15).toUpperCase());

/** What a face lies on: its plane or turned surface, as an entity's number. */
interface Drawn {
  /** Loops of its border: of each edge its number and whether it is walked as drawn. The first is the outer one. */
  loops: (readonly (readonly [edge: number, along: boolean])[] | { vertex: number })[];
  surface: number;
  /** Whether the surface's own normal points out of the solid. */
  outward: boolean;
  /** Red, green, blue, 0 to 1. */
  colour?: Point;
}

/** Writes one solid after the other, and the file around them. */
export class StepFile {
  private readonly lines: string[] = [];
  private readonly shapes: number[] = [];
  private readonly styled: number[] = [];
  private readonly context: number;
  private readonly products: number;

  /** @param unit what one unit of the file is */
  constructor(unit: 'mm' | 'm' | 'in' = 'mm') {
    const application = this.put(`APPLICATION_CONTEXT('automotive design')`);
    this.put(`APPLICATION_PROTOCOL_DEFINITION('international standard','automotive_design',2000,#${application})`);
    this.products = application;
    const si = unit === 'm' ? '$' : '.MILLI.';
    const metric = this.put(`(LENGTH_UNIT()NAMED_UNIT(*)SI_UNIT(${si},.METRE.))`);
    let length = metric;
    if (unit === 'in') {
      const measure = this.put(`LENGTH_MEASURE_WITH_UNIT(LENGTH_MEASURE(25.4),#${metric})`);
      const exponents = this.put('DIMENSIONAL_EXPONENTS(1.,0.,0.,0.,0.,0.,0.)');
      length = this.put(`(CONVERSION_BASED_UNIT('INCH',#${measure})LENGTH_UNIT()NAMED_UNIT(#${exponents}))`);
    }
    const angle = this.put('(NAMED_UNIT(*)PLANE_ANGLE_UNIT()SI_UNIT($,.RADIAN.))');
    const solid = this.put('(NAMED_UNIT(*)SI_UNIT($,.STERADIAN.)SOLID_ANGLE_UNIT())');
    const off = this.put(`UNCERTAINTY_MEASURE_WITH_UNIT(LENGTH_MEASURE(1.E-07),#${length},'distance_accuracy_value','')`);
    this.context = this.put(
      `(GEOMETRIC_REPRESENTATION_CONTEXT(3)GLOBAL_UNCERTAINTY_ASSIGNED_CONTEXT((#${off}))GLOBAL_UNIT_ASSIGNED_CONTEXT((#${length},#${angle},#${solid}))REPRESENTATION_CONTEXT('',''))`,
    );
  }

  private put(entity: string): number {
    this.lines.push(`#${this.lines.length + 1}=${entity};`);
    return this.lines.length;
  }
  private at = (p: Point): string => `(${p.map(real).join(',')})`;
  private point = (p: Point): number => this.put(`CARTESIAN_POINT('',${this.at(p)})`);
  private direction = (p: Point): number => this.put(`DIRECTION('',${this.at(p)})`);
  private vertex = (p: Point): number => this.put(`VERTEX_POINT('',#${this.point(p)})`);
  private axes(origin: Point, axis: Point, first: Point): number {
    return this.put(`AXIS2_PLACEMENT_3D('',#${this.point(origin)},#${this.direction(axis)},#${this.direction(first)})`);
  }

  private straight(from: readonly [number, Point], to: readonly [number, Point]): number {
    const d = [0, 1, 2].map((k) => to[1][k] - from[1][k]) as unknown as Point;
    const far = Math.hypot(...d);
    const vector = this.put(`VECTOR('',#${this.direction(d.map((x) => x / far) as unknown as Point)},1.)`);
    const line = this.put(`LINE('',#${this.point(from[1])},#${vector})`);
    return this.put(`EDGE_CURVE('',#${from[0]},#${to[0]},#${line},.T.)`);
  }
  /** A whole circle that begins and ends in a vertex. */
  private circle(vertex: number, centre: Point, axis: Point, first: Point, radius: number): number {
    const circle = this.put(`CIRCLE('',#${this.axes(centre, axis, first)},${real(radius)})`);
    return this.put(`EDGE_CURVE('',#${vertex},#${vertex},#${circle},.T.)`);
  }

  private face({ loops, surface, outward, colour }: Drawn): number {
    const bounds = loops.map((loop, i) => {
      const own =
        'vertex' in loop
          ? this.put(`VERTEX_LOOP('',#${loop.vertex})`)
          : this.put(
              `EDGE_LOOP('',(${loop.map(([edge, along]) => `#${this.put(`ORIENTED_EDGE('',*,*,#${edge},${along ? '.T.' : '.F.'})`)}`).join(',')}))`,
            );
      return `#${this.put(`${i === 0 ? 'FACE_OUTER_BOUND' : 'FACE_BOUND'}('',#${own},.T.)`)}`;
    });
    const face = this.put(`ADVANCED_FACE('',(${bounds.join(',')}),#${surface},${outward ? '.T.' : '.F.'})`);
    if (colour) this.paint(face, colour);
    return face;
  }
  private paint(item: number, colour: Point): void {
    const rgb = this.put(`COLOUR_RGB('',${colour.map((x) => x.toFixed(6)).join(',')})`);
    const fill = this.put(`FILL_AREA_STYLE('',(#${this.put(`FILL_AREA_STYLE_COLOUR('',#${rgb})`)}))`);
    const side = this.put(`SURFACE_SIDE_STYLE('',(#${this.put(`SURFACE_STYLE_FILL_AREA(#${fill})`)}))`);
    const style = this.put(`PRESENTATION_STYLE_ASSIGNMENT((#${this.put(`SURFACE_STYLE_USAGE(.BOTH.,#${side})`)}))`);
    this.styled.push(this.put(`STYLED_ITEM('',(#${style}),#${item})`));
  }

  /** A solid of faces, as a product of its own. */
  private solid(name: string, faces: readonly number[], colour?: Point): this {
    const shell = this.put(`CLOSED_SHELL('',(${faces.map((f) => `#${f}`).join(',')}))`);
    const brep = this.put(`MANIFOLD_SOLID_BREP('${name}',#${shell})`);
    if (colour) this.paint(brep, colour);
    const home = this.axes([0, 0, 0], [0, 0, 1], [1, 0, 0]);
    const shape = this.put(`ADVANCED_BREP_SHAPE_REPRESENTATION('${name}',(#${home},#${brep}),#${this.context})`);
    const context = this.put(`PRODUCT_CONTEXT('',#${this.products},'mechanical')`);
    const product = this.put(`PRODUCT('${name}','${name}','',(#${context}))`);
    const formation = this.put(`PRODUCT_DEFINITION_FORMATION('','',#${product})`);
    const view = this.put(`PRODUCT_DEFINITION_CONTEXT('part definition',#${this.products},'design')`);
    const definition = this.put(`PRODUCT_DEFINITION('design','',#${formation},#${view})`);
    const held = this.put(`PRODUCT_DEFINITION_SHAPE('','',#${definition})`);
    this.shapes.push(this.put(`SHAPE_DEFINITION_REPRESENTATION(#${held},#${shape})`));
    return this;
  }

  private plane = (origin: Point, axis: Point, first: Point): number => this.put(`PLANE('',#${this.axes(origin, axis, first)})`);

  /** Edges and corners of a box, and its six faces with what else bounds them. */
  private boxFaces(a: Point, b: Point, holes: { bottom?: Drawn['loops'][number]; top?: Drawn['loops'][number] }, top?: Point): number[] {
    const corner = (i: number): Point => [i & 1 ? b[0] : a[0], i & 2 ? b[1] : a[1], i & 4 ? b[2] : a[2]];
    const vertices = Array.from({ length: 8 }, (_, i) => [this.vertex(corner(i)), corner(i)] as const);
    const edges = new Map<string, number>();
    const loop = (...round: number[]) =>
      round.map((from, i) => {
        const to = round[(i + 1) % round.length];
        const [low, high] = from < to ? [from, to] : [to, from];
        const key = `${low} ${high}`;
        const edge = edges.get(key) ?? this.straight(vertices[low], vertices[high]);
        edges.set(key, edge);
        return [edge, from < to] as const;
      });
    const flat = (round: number[], axis: Point, first: Point, hole?: Drawn['loops'][number], colour?: Point) =>
      this.face({
        loops: [loop(...round), ...(hole ? [hole] : [])],
        surface: this.plane(corner(round[0]), axis, first),
        outward: true,
        ...(colour && { colour }),
      });
    return [
      flat([0, 2, 3, 1], [0, 0, -1], [1, 0, 0], holes.bottom),
      flat([4, 5, 7, 6], [0, 0, 1], [1, 0, 0], holes.top, top),
      flat([0, 1, 5, 4], [0, -1, 0], [1, 0, 0]),
      flat([2, 6, 7, 3], [0, 1, 0], [1, 0, 0]),
      flat([0, 4, 6, 2], [-1, 0, 0], [0, 1, 0]),
      flat([1, 3, 7, 5], [1, 0, 0], [0, 1, 0]),
    ];
  }

  /** A box between two corners; the top may have a colour of its own. */
  box(name: string, a: Point, b: Point, colour?: Point, top?: Point): this {
    return this.solid(name, this.boxFaces(a, b, {}, top), colour);
  }

  /** A block with a round hole from bottom to top. */
  boredBlock(name: string, a: Point, b: Point, middle: readonly [number, number], radius: number, colour?: Point): this {
    const [low, high] = [a[2], b[2]].map((z) => {
      const start: Point = [middle[0] + radius, middle[1], z];
      const vertex = this.vertex(start);
      return { vertex, start, edge: this.circle(vertex, [middle[0], middle[1], z], [0, 0, 1], [1, 0, 0], radius) };
    });
    const seam = this.straight([low.vertex, low.start], [high.vertex, high.start]);
    const bore = this.face({
      loops: [
        [
          [low.edge, false],
          [seam, true],
          [high.edge, true],
          [seam, false],
        ],
      ],
      surface: this.put(`CYLINDRICAL_SURFACE('',#${this.axes([middle[0], middle[1], a[2]], [0, 0, 1], [1, 0, 0])},${real(radius)})`),
      outward: false,
    });
    return this.solid(name, [...this.boxFaces(a, b, { bottom: [[low.edge, true]], top: [[high.edge, false]] }), bore], colour);
  }

  /** A cone cut off at its top, or a cylinder where both radii are equal, upright on the origin. */
  cone(name: string, bottom: number, top: number, height: number, colour?: Point): this {
    const [low, high] = [
      [bottom, 0],
      [top, height],
    ].map(([r, z]) => {
      const start: Point = [r, 0, z];
      const vertex = this.vertex(start);
      return { vertex, start, edge: this.circle(vertex, [0, 0, z], [0, 0, 1], [1, 0, 0], r) };
    });
    const seam = this.straight([low.vertex, low.start], [high.vertex, high.start]);
    // A cone's surface widens along its axis.
    const widens = top > bottom;
    const [axes, radius] = widens
      ? [this.axes([0, 0, 0], [0, 0, 1], [1, 0, 0]), bottom]
      : [this.axes([0, 0, height], [0, 0, -1], [1, 0, 0]), top];
    const surface =
      top === bottom
        ? this.put(`CYLINDRICAL_SURFACE('',#${this.axes([0, 0, 0], [0, 0, 1], [1, 0, 0])},${real(bottom)})`)
        : this.put(`CONICAL_SURFACE('',#${axes},${real(radius)},${real(Math.atan(Math.abs(top - bottom) / height))})`);
    return this.solid(
      name,
      [
        this.face({
          loops: [
            [
              [low.edge, true],
              [seam, true],
              [high.edge, false],
              [seam, false],
            ],
          ],
          surface,
          outward: true,
        }),
        this.face({ loops: [[[low.edge, false]]], surface: this.plane([0, 0, 0], [0, 0, -1], [1, 0, 0]), outward: true }),
        this.face({ loops: [[[high.edge, true]]], surface: this.plane([0, 0, height], [0, 0, 1], [1, 0, 0]), outward: true }),
      ],
      colour,
    );
  }

  sphere(name: string, radius: number): this {
    const pole = this.vertex([0, 0, -radius]);
    const surface = this.put(`SPHERICAL_SURFACE('',#${this.axes([0, 0, 0], [0, 0, 1], [1, 0, 0])},${real(radius)})`);
    return this.solid(name, [this.face({ loops: [{ vertex: pole }], surface, outward: true })]);
  }

  torus(name: string, major: number, minor: number): this {
    const start: Point = [major + minor, 0, 0];
    const vertex = this.vertex(start);
    const round = this.circle(vertex, [0, 0, 0], [0, 0, 1], [1, 0, 0], major + minor);
    const across = this.circle(vertex, [major, 0, 0], [0, -1, 0], [1, 0, 0], minor);
    const surface = this.put(`TOROIDAL_SURFACE('',#${this.axes([0, 0, 0], [0, 0, 1], [1, 0, 0])},${real(major)},${real(minor)})`);
    return this.solid(name, [
      this.face({
        loops: [
          [
            [round, true],
            [across, true],
            [round, false],
            [across, false],
          ],
        ],
        surface,
        outward: true,
      }),
    ]);
  }

  /** The file as its bytes. */
  bytes(): Uint8Array {
    const lines = [...this.lines];
    if (this.styled.length > 0)
      lines.push(
        `#${lines.length + 1}=MECHANICAL_DESIGN_GEOMETRIC_PRESENTATION_REPRESENTATION('',(${this.styled.map((s) => `#${s}`).join(',')}),#${this.context});`,
      );
    const head = [
      "FILE_DESCRIPTION(('a check'),'2;1');",
      "FILE_NAME('check','2026-11-28T00:00:00',(''),(''),'','','');",
      "FILE_SCHEMA(('AUTOMOTIVE_DESIGN'));",
    ];
    return new TextEncoder().encode(
      ['ISO-10303-21;', 'HEADER;', ...head, 'ENDSEC;', 'DATA;', ...lines, 'ENDSEC;', 'END-ISO-10303-21;', ''].join('\n'),
    );
  }
}
