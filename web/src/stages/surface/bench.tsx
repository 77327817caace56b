'use client';

import Box from '@mui/material/Box';
import { WellmorphError } from '@wellmorph/core/errors';
import type { AssetDocument, Material } from '@wellmorph/core/pipeline/document';
import { deliveredParts } from '@wellmorph/core/pipeline/document';
import { fileName } from '@wellmorph/core/pipeline/file-name';
import { copyLayers } from '@wellmorph/core/surface/layers/layer';
import { PLAIN } from '@wellmorph/core/surface/material';
import { isPainted, materialFile, materialFromFile } from '@wellmorph/core/surface/material-file';
import { useSession } from '@/session/context';
import { download } from '@/sheet/download';
import { useFiles } from '@/sheet/file-input';
import { newId } from '@/sheet/ids';
import { Act } from '@/sheet/plain';
import type { Bytes } from '@/workers/protocol';

/** A name that no material has yet: the one that is given, or with a number behind it. */
export function freeName(name: string, materials: readonly Pick<Material, 'name'>[]): string {
  const taken = new Set(materials.map((m) => m.name));
  for (let n = 1; ; n++) {
    const tried = n === 1 ? name.slice(0, 80) : `${name.slice(0, 75)} ${n}`;
    if (!taken.has(tried)) return tried;
  }
}

/** What can be done with the materials of a piece: one made, opened, copied, saved, taken away. */
export function Bench({
  document,
  material,
  onLook,
}: {
  document: AssetDocument;
  material: Material | undefined;
  onLook(id: string | null): void;
}) {
  const session = useSession();
  const add = (made: Omit<Material, 'id'>) => {
    const id = newId();
    if (session.dispatch({ type: 'material.add', material: { ...made, id } })) onLook(id);
  };
  const files = useFiles({
    label: 'Material file',
    accept: 'application/json,.json',
    onFiles: ([file]) => void open(file),
  });
  const open = async (file: File) => {
    try {
      const made = materialFromFile(file.name, file.size > 2e6 ? '' : await file.text(), newId());
      // What was added while it was read has its name already.
      add({ ...made, name: freeName(made.name, session.document?.materials ?? []) });
    } catch (error) {
      session.notify(error instanceof WellmorphError ? error.message : `“${file.name}” could not be read.`, 'error');
    }
  };
  const save = (m: Material) => {
    download(`${fileName(m.name)}_material.json`, new TextEncoder().encode(materialFile(m)) as Bytes);
    const without = [m.texturing && 'the pictures it came with', isPainted(m) && 'what is painted by hand on this piece'].filter(Boolean);
    if (without.length > 0) session.notify(`${m.name} was saved without ${without.join(' and ')}.`);
  };
  const worn = material ? deliveredParts(document).filter((p) => p.material === material.id) : [];
  return (
    <Box {...files.zone} role="group" aria-label="bench" sx={{ px: 1.8, mb: 1, display: 'flex', gap: 1.4, flexWrap: 'wrap' }}>
      <Act
        onClick={() =>
          add({ ...structuredClone(PLAIN), name: freeName('New material', document.materials), source: 'made here', touched: true })
        }
      >
        New material
      </Act>
      <Act onClick={files.choose}>Open one</Act>
      {files.input}
      {material && (
        <>
          <Act
            onClick={() => {
              const { id: _, ...own } = material;
              add({
                ...structuredClone(own),
                layers: copyLayers(material.layers),
                name: freeName(`${material.name}, copy`, document.materials),
                touched: true,
              });
            }}
          >
            Copy {material.name}
          </Act>
          <Act
            onClick={() => {
              const { id: _, texturing: __, ...own } = material;
              add({
                ...structuredClone(own),
                name: freeName(`${material.name}, derived`, document.materials),
                derived: { from: material.id, own: [] },
                touched: true,
              });
            }}
          >
            Derive from it
          </Act>
          <Act onClick={() => save(material)}>Save it as a file</Act>
          <Act
            quiet
            title={worn.length > 0 ? `${worn.map((p) => p.name).join(', ')} would have none` : undefined}
            onClick={() => {
              session.dispatch({ type: 'material.remove', material: material.id });
              onLook(null);
            }}
          >
            Remove it
          </Act>
        </>
      )}
    </Box>
  );
}
