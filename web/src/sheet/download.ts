import type { Bytes } from '@/workers/protocol';

const TYPES: Record<string, string> = {
  png: 'image/png',
  svg: 'image/svg+xml',
  glb: 'model/gltf-binary',
  zip: 'application/zip',
  json: 'application/json',
  txt: 'text/plain',
};

/** Hands a file to the browser to be kept. */
export function download(name: string, bytes: Bytes): void {
  const url = URL.createObjectURL(new Blob([bytes], { type: TYPES[name.split('.').pop() ?? ''] ?? 'application/octet-stream' }));
  const a = window.document.createElement('a');
  a.href = url;
  a.download = name;
  a.click();
  setTimeout(() => URL.revokeObjectURL(url), 5000);
}
