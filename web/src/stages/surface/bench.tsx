'use client';

import Box from '@mui/material/Box';
import ListSubheader from '@mui/material/ListSubheader';
import Menu from '@mui/material/Menu';
import MenuItem from '@mui/material/MenuItem';
import { useQuery } from '@tanstack/react-query';
import { WellmorphError } from '@wellmorph/core/errors';
import type { AssetDocument, Material } from '@wellmorph/core/pipeline/document';
import { deliveredParts } from '@wellmorph/core/pipeline/document';
import { fileName } from '@wellmorph/core/pipeline/file-name';
import { copyLayers } from '@wellmorph/core/surface/layers/layer';
import { PLAIN } from '@wellmorph/core/surface/material';
import { isPainted, materialFile, materialFromFile } from '@wellmorph/core/surface/material-file';
import { useState } from 'react';
import type { OtherMaterials } from '@/server/import/pieces';
import { get } from '@/session/api';
import { useSession } from '@/session/context';
import { sentence } from '@/session/session';
import { download } from '@/sheet/download';
import { useFiles } from '@/sheet/file-input';
import { newId } from '@/sheet/ids';
import { Act } from '@/sheet/plain';
import type { Bytes } from '@/workers/protocol';

/** A name that none of them has yet: the one that is given, or with a number behind it. */
export function freeName(name: string, among: readonly { name: string }[]): string {
  const taken = new Set(among.map((m) => m.name));
  for (let n = 1; ; n++) {
    const tried = n === 1 ? name.slice(0, 80) : `${name.slice(0, 75)} ${n}`;
    if (!taken.has(tried)) return tried;
  }
}

/** A material of another piece of the Workshop, as it is there now. */
function Elsewhere({ onTake }: { onTake(m: OtherMaterials['materials'][number]): void }) {
  const { id } = useSession();
  const [at, setAt] = useState<HTMLElement | null>(null);
  const { data, error } = useQuery({
    queryKey: ['materials', id],
    queryFn: () => get<OtherMaterials[]>(`/api/assets/${id}/materials`),
    enabled: at !== null,
    staleTime: 0,
  });
  return (
    <>
      <Act aria-haspopup="menu" onClick={(e) => setAt(e.currentTarget)}>
        From another piece
      </Act>
      <Menu
        open={at !== null}
        anchorEl={at}
        onClose={() => setAt(null)}
        slotProps={{ list: { dense: true, 'aria-label': 'materials of other pieces' }, paper: { sx: { maxHeight: '70vh' } } }}
      >
        {(error || !data || data.length === 0) && (
          <MenuItem disabled>{error ? sentence(error) : data ? 'No other piece has a material yet.' : 'Looking …'}</MenuItem>
        )}
        {data?.flatMap((piece) => [
          <ListSubheader key={piece.id} sx={{ lineHeight: '28px' }}>
            {piece.name}
          </ListSubheader>,
          ...piece.materials.map((m) => (
            <MenuItem
              key={`${piece.id} ${m.id}`}
              onClick={() => {
                setAt(null);
                onTake(m);
              }}
            >
              {m.name}
              <Box component="span" className="narrow" sx={{ ml: 1, fontSize: 12, color: 'text.secondary' }}>
                {m.layers.length === 0 ? '' : m.layers.length === 1 ? 'one layer' : `${m.layers.length} layers`}
              </Box>
            </MenuItem>
          )),
        ])}
      </Menu>
    </>
  );
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
      <Elsewhere onTake={({ id: _, ...m }) => add({ ...m, name: freeName(m.name, document.materials), touched: true })} />
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
