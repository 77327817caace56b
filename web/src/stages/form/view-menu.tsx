'use client';

import Menu from '@mui/material/Menu';
import MenuItem from '@mui/material/MenuItem';
import ToggleButton from '@mui/material/ToggleButton';
import { VIEWS, type View, type ViewKind } from '@wellmorph/core/inspect/views';
import { resultHash } from '@wellmorph/core/pipeline/results';
import { useEffect, useState } from 'react';
import { useSheet } from '@/sheet/state';
import { showView, VIEW_LIST } from './look';

/** Chooses what the plate measures on the surface; none shows materials. */
export function ViewMenu({ kind, onKind }: { kind: ViewKind | null; onKind(kind: ViewKind | null): void }) {
  const [anchor, setAnchor] = useState<HTMLElement | null>(null);
  const choose = (k: ViewKind | null) => {
    setAnchor(null);
    onKind(k);
  };
  return (
    <>
      <ToggleButton
        value="view"
        selected={kind !== null}
        aria-haspopup="menu"
        aria-label="view on the piece"
        onClick={(e) => setAnchor(e.currentTarget)}
        sx={{ px: 1.2 }}
      >
        {kind ? VIEWS[kind] : 'Materials'} ▾
      </ToggleButton>
      <Menu anchorEl={anchor} open={anchor !== null} onClose={() => setAnchor(null)}>
        <MenuItem selected={kind === null} onClick={() => choose(null)}>
          Materials
        </MenuItem>
        {VIEW_LIST.map(([k, name]) => (
          <MenuItem key={k} selected={kind === k} onClick={() => choose(k)}>
            {name}
          </MenuItem>
        ))}
      </Menu>
    </>
  );
}

/** The view that is chosen, once it was measured; kept up to date with the form. */
export function useMeasuredView(kind: ViewKind | null): View | null {
  const document = useSheet((s) => s.document);
  const formed = useSheet((s) => s.form?.hash);
  const view = useSheet((s) => s.view?.view);
  useEffect(() => {
    if (kind && document && formed === resultHash(document, 'form')) void showView(kind);
  }, [kind, document, formed]);
  return kind && view?.kind === kind ? view : null;
}
