'use client';

import Select from '@mui/material/Select';
import ToggleButton from '@mui/material/ToggleButton';
import ToggleButtonGroup from '@mui/material/ToggleButtonGroup';
import { CORNERS } from '@wellmorph/core/photo/box';
import type { Corner, Photo } from '@wellmorph/core/photo/photo';
import { useEffect, useState } from 'react';
import { PhotoPlate, type PhotoSight, type PhotoTool } from '@/plates/photo/photo';
import { cornerName } from '@/plates/photo/seen';
import { PlateFoot, PlateTop } from '@/plates/plate';
import { useSession } from '@/session/context';
import { isTyping } from '@/sheet/typing';

const WORDS: Record<string, string> = {
  look: 'slide: drag · nearer: wheel · handles and corners: drag · pick x, y, z or Corner to draw',
  0: 'draw along an edge that runs from left to right of the piece · slide: right-drag',
  1: 'draw along an upright edge · slide: right-drag',
  2: 'draw along an edge that runs from the back to the front · slide: right-drag',
  corner: 'put the corner where it appears; hollow ones follow and can be pulled · slide: right-drag',
};

/** A photograph opened in place of the piece, with what can be drawn on it. */
export function OpenPhoto({ photo, sight, onClose }: { photo: Photo; sight: PhotoSight; onClose(): void }) {
  const session = useSession();
  const [tool, setTool] = useState<PhotoTool>('look');
  const [snaps, setSnaps] = useState(true);
  const free = CORNERS.filter((k) => !photo.pins.some((p) => String(p.corner) === String(k)));
  const [wanted, setWanted] = useState<string>('0,0,1');
  const corner: Corner | undefined = free.find((k) => String(k) === wanted) ?? free[0];
  useEffect(() => {
    const onKey = (e: KeyboardEvent) => {
      if (isTyping(e.target) || e.ctrlKey || e.metaKey || e.altKey) return;
      if (e.key === 'Escape') setTool('look');
      const axis = ['x', 'y', 'z'].indexOf(e.key.toLowerCase());
      if (axis >= 0) setTool(axis as 0 | 1 | 2);
      if (e.key.toLowerCase() === 'c') setTool('corner');
    };
    window.addEventListener('keydown', onKey);
    return () => window.removeEventListener('keydown', onKey);
  }, []);
  return (
    <>
      <PhotoPlate
        photo={photo}
        sight={sight}
        tool={tool === 'corner' && !corner ? 'look' : tool}
        corner={corner ?? [0, 0, 0]}
        snaps={snaps}
        onChange={(next) => session.dispatch({ type: 'photo.set', photo: next })}
        onUnreadable={() => session.notify(`“${photo.name}” can’t be shown: it is no longer stored, or damaged.`, 'error')}
      />
      <PlateTop>
        <ToggleButtonGroup
          value={tool}
          onChange={(_, v: PhotoTool | null) => v !== null && setTool(v)}
          aria-label="what is drawn on the photograph"
        >
          <ToggleButton value="look">Look</ToggleButton>
          <ToggleButton value={0} aria-label="Edges along x">
            x
          </ToggleButton>
          <ToggleButton value={1} aria-label="Edges along y">
            y
          </ToggleButton>
          <ToggleButton value={2} aria-label="Edges along z">
            z
          </ToggleButton>
          <ToggleButton value="corner" disabled={free.length === 0}>
            Corner
          </ToggleButton>
        </ToggleButtonGroup>
        {tool === 'corner' && corner && (
          <Select
            native
            inputProps={{ 'aria-label': 'which corner' }}
            value={String(corner)}
            onChange={(e) => setWanted(e.target.value)}
            sx={{ bgcolor: 'background.paper' }}
          >
            {free.map((k) => (
              <option key={String(k)} value={String(k)}>
                {cornerName(k)}
              </option>
            ))}
          </Select>
        )}
        <ToggleButton
          value="snaps"
          selected={snaps}
          onChange={() => setSnaps(!snaps)}
          title="An edge that is drawn moves onto the picture’s own, where there is one within 14 px"
          sx={{ bgcolor: 'background.paper' }}
        >
          Onto the picture’s edge
        </ToggleButton>
        <ToggleButton value="close" selected={false} onChange={onClose} sx={{ bgcolor: 'background.paper' }}>
          Back to the piece
        </ToggleButton>
      </PlateTop>
      <PlateFoot>
        <span>{WORDS[String(tool)]}</span>
      </PlateFoot>
    </>
  );
}
