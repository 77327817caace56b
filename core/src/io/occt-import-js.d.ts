declare module 'occt-import-js' {
  export interface OcctNode {
    name: string;
    /** Indices of its meshes. */
    meshes: number[];
    children: OcctNode[];
  }
  export interface OcctMesh {
    name: string;
    /** Linear light, 0 to 1. */
    color?: [number, number, number];
    /** Triangles of each face, both ends counted; `last` before `first` where none could be made. */
    brep_faces: { first: number; last: number; color: [number, number, number] | null }[];
    attributes: { position: { array: number[] }; normal?: { array: number[] } };
    index: { array: number[] };
  }
  export interface Occt {
    ReadStepFile(
      content: Uint8Array,
      params: {
        linearUnit: 'millimeter';
        linearDeflectionType: 'absolute_value';
        linearDeflection: number;
        angularDeflection: number;
      },
    ): { success: boolean; root: OcctNode; meshes: OcctMesh[] };
  }
  export default function load(options: { print(line: string): void; printErr(line: string): void }): Promise<Occt>;
}
