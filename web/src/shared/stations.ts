/** The eight stations of a piece, in order. */
export const STATIONS = [
  { id: 'brief', name: 'Brief' },
  { id: 'form', name: 'Form' },
  { id: 'unwrap', name: 'Unwrap' },
  { id: 'bake', name: 'Bake' },
  { id: 'surface', name: 'Surface' },
  { id: 'light', name: 'Light' },
  { id: 'render', name: 'Render' },
  { id: 'hand-off', name: 'Hand-off' },
] as const;

export type Station = (typeof STATIONS)[number]['id'];
export const isStation = (text: string): text is Station => STATIONS.some((s) => s.id === text);
