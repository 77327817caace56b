export const FORMATS = ['obj', 'glb', 'gltf', 'ply', 'stl', 'step', 'stp'] as const;
/** Formats that are read. */
export type Format = (typeof FORMATS)[number];
/** Formats whose files state no unit. */
export const UNITLESS: readonly Format[] = ['obj', 'ply', 'stl'];
/** Formats whose surfaces are exact, to be cut into triangles as finely as is wanted. */
export const EXACT: readonly Format[] = ['step', 'stp'];
/** Which way is up in a file. */
export type Up = 'y' | 'z';
/** Which way is up where nobody says: drawn parts stand along z (common practice, no source), models along y as in glTF. */
export const usualUp = (format: Format): Up => (EXACT.includes(format) ? 'z' : 'y');
/** What can be read, for sentences. */
export const READ_WORDS = 'OBJ, GLB, glTF, PLY, STL and STEP';
