import { blob } from '@/sheet/api';
import { currentForm } from '@/sheet/forming';
import { job } from '@/sheet/jobs';
import { isFresh, now } from '@/sheet/state';
import { pool, WorkError } from '@/workers/pool';
import type { Bytes } from '@/workers/protocol';

/** The files of the hand-over so far: GLB with maps, the maps, the layout. */
export async function exportFiles(): Promise<{ name: string; bytes: Bytes }[] | null> {
  const { document } = now();
  if (!document) return null;
  return job('export', async (report, cancel) => {
    const { layout, bake } = now();
    const freshLayout = isFresh(document, layout, 'unwrap') ? layout : null;
    const freshBake = isFresh(document, bake, 'bake') ? bake : null;
    const form = await currentForm();
    if (!form || form.gpu.length === 0) throw new WorkError('export/empty', 'There is nothing to export yet.');
    report(0.2, 'writing the GLB');
    const normal = freshBake?.glbNormal ? await blob(freshBake.glbNormal) : null;
    const occlusion = freshBake?.occlusion ? await blob(freshBake.occlusion) : null;
    const { glb } = await pool.run('export', { document, laid: freshLayout?.parts ?? form.parts, normal, occlusion }, undefined, cancel);
    const base = slug(document.name);
    const files: { name: string; bytes: Bytes }[] = [{ name: `${base}.glb`, bytes: glb }];
    if (freshBake?.normal) files.push({ name: `${base}_normal.png`, bytes: await blob(freshBake.normal) });
    if (occlusion) files.push({ name: `${base}_occlusion.png`, bytes: occlusion });
    if (freshLayout)
      files.push(
        { name: `${base}_layout.png`, bytes: await blob(freshLayout.png) },
        { name: `${base}_layout.svg`, bytes: await blob(freshLayout.svg) },
      );
    return files;
  });
}
const slug = (name: string): string =>
  name
    .toLowerCase()
    .replace(/[^a-z0-9]+/g, '-')
    .replace(/^-+|-+$/g, '') || 'asset';

export function download(name: string, bytes: Bytes): void {
  const type = name.endsWith('.png') ? 'image/png' : name.endsWith('.svg') ? 'image/svg+xml' : 'model/gltf-binary';
  const url = URL.createObjectURL(new Blob([bytes], { type }));
  const a = window.document.createElement('a');
  a.href = url;
  a.download = name;
  a.click();
  setTimeout(() => URL.revokeObjectURL(url), 5000);
}
