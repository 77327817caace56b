import { InputError } from '../errors';
import { triangulate } from './triangulate';

/** What an attribute belongs to: each vertex, each corner of a face, or each face. */
export type Domain = 'vertex' | 'corner' | 'face';
/** Numbers of an attribute, `size` of them for each element of its domain. */
export type AttributeData = Float64Array | Float32Array | Int32Array | Uint32Array | Uint8Array;

/**
 * Anything that belongs to a vertex, a corner or a face. Edge values (`hard`, `seam`) live on the corner that starts the
 * edge, so each side of an edge has its own; readers take either side.
 */
export interface Attribute {
  name: string;
  domain: Domain;
  /** Numbers per element. */
  size: number;
  data: AttributeData;
}

/**
 * A polygon mesh in mm. Faces have any number of corners and are stored in CSR form: face f owns corners
 * `faceStart[f] … faceStart[f + 1] - 1`, and corner c stands on vertex `faceVert[c]`. Counter-clockwise seen from outside.
 *
 * The triangulation is made once, with the mesh: display, bake, tangents and export all use that one.
 */
export interface PolyMesh {
  /** 3 per vertex. */
  readonly positions: Float64Array;
  /** F + 1 entries. */
  readonly faceStart: Uint32Array;
  readonly faceVert: Uint32Array;
  /** 3 corners per triangle. */
  readonly triangles: Uint32Array;
  /** The face each triangle is cut from. */
  readonly triangleFace: Uint32Array;
  readonly attributes: readonly Attribute[];
  /** Names of the surface's patches; the face attribute `patch` holds indices into it. */
  readonly patches: readonly string[];
}

/** What a mesh is made from; triangles are worked out where they are not given. */
export interface MeshParts {
  positions: ArrayLike<number>;
  faceStart: ArrayLike<number>;
  faceVert: ArrayLike<number>;
  attributes?: readonly Attribute[];
  patches?: readonly string[];
}

export const vertexCount = (mesh: PolyMesh): number => mesh.positions.length / 3;
export const faceCount = (mesh: PolyMesh): number => mesh.faceStart.length - 1;
export const cornerCount = (mesh: PolyMesh): number => mesh.faceVert.length;
export const triangleCount = (mesh: PolyMesh): number => mesh.triangles.length / 3;

/**
 * Puts a mesh together and triangulates it.
 *
 * @throws InputError `mesh/…` when an index is out of range, a position is not a number or an attribute has the wrong length
 */
export function makeMesh(parts: MeshParts): PolyMesh {
  const positions = Float64Array.from(parts.positions);
  const faceStart = Uint32Array.from(parts.faceStart);
  const faceVert = Uint32Array.from(parts.faceVert);
  const vertices = positions.length / 3;
  for (let i = 0; i < positions.length; i++)
    if (!Number.isFinite(positions[i]))
      throw new InputError('mesh/position', `Vertex ${Math.floor(i / 3) + 1} has a position that is not a number.`);
  for (let c = 0; c < faceVert.length; c++)
    if (faceVert[c] >= vertices)
      throw new InputError('mesh/index', `A face refers to vertex ${faceVert[c] + 1}, but there are only ${vertices}.`);
  const faces = faceStart.length - 1;
  if (faces < 0 || faceStart[0] !== 0 || faceStart[faces] !== faceVert.length)
    throw new InputError('mesh/faces', 'The list of faces does not match the list of corners.');
  const attributes = parts.attributes ?? [];
  const sizes = { vertex: vertices, corner: faceVert.length, face: faces };
  for (const a of attributes)
    if (a.data.length !== a.size * sizes[a.domain])
      throw new InputError('mesh/attribute', `The values called “${a.name}” do not match the number of ${a.domain} elements.`);
  const cut = triangulate(positions, faceStart, faceVert);
  return { positions, faceStart, faceVert, ...cut, attributes, patches: parts.patches ?? [] };
}

/** The attribute of a name on a domain, or undefined. */
export function attribute(mesh: PolyMesh, name: string, domain?: Domain): Attribute | undefined {
  return mesh.attributes.find((a) => a.name === name && (!domain || a.domain === domain));
}

/** The same mesh with one attribute set or, with `undefined` data, left out. Positions and triangulation are shared. */
export function withAttribute(mesh: PolyMesh, next: Attribute): PolyMesh {
  return { ...mesh, attributes: [...mesh.attributes.filter((a) => a.name !== next.name), next] };
}
/** The same mesh without one attribute; the rest is shared. */
export function withoutAttribute(mesh: PolyMesh, name: string): PolyMesh {
  return { ...mesh, attributes: mesh.attributes.filter((a) => a.name !== name) };
}

/** The corner after `c` round face `f`. */
export function nextCorner(mesh: PolyMesh, f: number, c: number): number {
  return c + 1 < mesh.faceStart[f + 1] ? c + 1 : mesh.faceStart[f];
}

/** Corner → face. */
export function cornerFaces(mesh: PolyMesh): Uint32Array {
  const out = new Uint32Array(cornerCount(mesh));
  for (let f = 0; f < faceCount(mesh); f++) out.fill(f, mesh.faceStart[f], mesh.faceStart[f + 1]);
  return out;
}

/** Collects faces one by one, with their patch and patch coordinates, and makes the mesh of them. */
export class MeshBuilder {
  private positions: number[] = [];
  private faceStart: number[] = [0];
  private faceVert: number[] = [];
  private patchOf: number[] = [];
  private coordinates: number[] = [];
  private hard: number[] = [];
  private patches: string[] = [];

  vertex(x: number, y: number, z: number): number {
    this.positions.push(x, y, z);
    return this.positions.length / 3 - 1;
  }
  patch(name: string): number {
    const i = this.patches.indexOf(name);
    return i >= 0 ? i : this.patches.push(name) - 1;
  }
  /**
   * @param vertices counter-clockwise from outside
   * @param coordinates u, v of each corner in the patch, 0…1
   * @param hard for each corner, whether the edge it starts is hard
   */
  face(vertices: readonly number[], patch: number, coordinates: readonly number[], hard?: readonly boolean[]): void {
    for (let i = 0; i < vertices.length; i++) {
      this.faceVert.push(vertices[i]);
      this.coordinates.push(coordinates[2 * i], coordinates[2 * i + 1]);
      this.hard.push(hard?.[i] ? 1 : 0);
    }
    this.faceStart.push(this.faceVert.length);
    this.patchOf.push(patch);
  }
  build(): PolyMesh {
    return makeMesh({
      positions: this.positions,
      faceStart: this.faceStart,
      faceVert: this.faceVert,
      patches: this.patches,
      attributes: [
        { name: 'patch', domain: 'face', size: 1, data: Uint32Array.from(this.patchOf) },
        { name: 'patchUv', domain: 'corner', size: 2, data: Float64Array.from(this.coordinates) },
        { name: 'hard', domain: 'corner', size: 1, data: Uint8Array.from(this.hard) },
      ],
    });
  }
}
