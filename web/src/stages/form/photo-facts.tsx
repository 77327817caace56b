'use client';

import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import type { Step } from '@wellmorph/core/form/steps/index';
import { focalFromFile, type Photo, wasCropped } from '@wellmorph/core/photo/photo';
import type { Command } from '@wellmorph/core/pipeline/commands/index';
import { type AssetDocument, type Part, stepsOf } from '@wellmorph/core/pipeline/document';
import { figure } from '@wellmorph/core/units/lengths';
import type { PhotoSight } from '@/plates/photo/photo';
import { cornerName, tiltOf } from '@/plates/photo/seen';
import { useLengths, useSession } from '@/session/context';
import type { AssetSession } from '@/session/session';
import { Choice, Either, Heading, NumberField } from '@/sheet/fields';
import { FigureTable } from '@/sheet/figure-table';
import { newId } from '@/sheet/ids';
import { Act } from '@/sheet/plain';
import type { PhotoSolved } from '@/workers/project';
import { newStep } from './step-menu';

const AXES = ['x', 'y', 'z'] as const;
const SIZE_NAMES = ['width, x', 'height, y', 'depth, z'] as const;
/** Sizes are taken to a tenth of a millimetre: no photograph says more. */
const rounded = (mm: number): number => Math.round(10 * mm) / 10;

/** The step that makes a plain box of a part, where that is all it does. */
function boxStepOf(part: Part | undefined): Extract<Step, { kind: 'box' }> | null {
  const first = part ? stepsOf(part)[0] : undefined;
  return first?.kind === 'box' ? first : null;
}

/** Gives the part in the photograph the sizes it was found to have; makes it, where there is none. */
function takeSizes(session: AssetSession, document: AssetDocument, photo: Photo, sizeMm: readonly number[]): void {
  const [width, height, depth] = sizeMm.map(rounded);
  const part = document.parts.find((p) => p.id === photo.part);
  const step = boxStepOf(part);
  if (part && step) {
    session.dispatch({ type: 'step.set', part: part.id, step: { ...step, width, height, depth } });
    return;
  }
  const id = newId();
  const made: Part = {
    id,
    name: 'Box',
    role: 'body',
    material: null,
    move: [0, 0, 0],
    turnDegrees: [0, 0, 0],
    shape: { kind: 'recipe', steps: [{ ...newStep('box'), width, height, depth, edgeRadius: 0 } as Step] },
    weight: 1,
    declaredOpen: false,
  };
  const commands: Command[] = [
    { type: 'part.add', part: made },
    { type: 'photo.set', photo: { ...photo, part: id } },
  ];
  session.dispatch({ type: 'several', what: `made a box from ${photo.name}`, commands });
}

/** What a photograph says: its lens, where it was taken from, the sizes of the box in it, and how far all of that is off. */
export function PhotoFacts({
  document,
  photo,
  answer,
  isNow,
  box,
}: {
  document: AssetDocument;
  photo: Photo;
  answer: PhotoSolved | null;
  /** It is of what is drawn now: only then anything is made of it. */
  isNow: boolean;
  /** The box whose corners are marked. */
  box: PhotoSight['box'];
}) {
  const session = useSession();
  const { length, bare, unit } = useLengths();
  const put = (patch: Partial<Photo>) => {
    const next = { ...photo, ...patch };
    for (const key of Object.keys(patch) as (keyof Photo)[]) if (patch[key] === undefined) delete next[key];
    session.dispatch({ type: 'photo.set', photo: next });
  };
  const m = answer?.solved?.stood.matched ?? answer?.sizes?.matched ?? answer?.matched ?? null;
  const fromFile = focalFromFile(photo);
  const cropped = wasCropped(photo);
  const camera = answer?.solved?.camera;
  const part = document.parts.find((p) => p.id === photo.part);
  const sizes = answer?.sizes;
  const { known } = photo;
  const corners = answer?.solved?.stood.residuals ?? sizes?.residuals;
  const step = boxStepOf(part);
  return (
    <Box component="section" aria-label="what the photograph says" sx={{ mb: 2 }}>
      <Heading aside={`${photo.widthPx} × ${photo.heightPx} px`}>{photo.name}</Heading>
      <Box role="status" sx={{ fontSize: 13, mb: 0.8, color: answer?.wrong.camera ? 'warning.main' : undefined }}>
        {answer?.wrong.camera ??
          (camera
            ? `The camera is known: what is drawn misses it by ${figure(answer?.solved?.stood.rmsPx ?? 0, 2)} px.`
            : m
              ? 'The lens and how it was turned are known; two corners of a part say where it stood.'
              : 'Draw edges that run along the piece’s axes.')}
      </Box>
      {m && (
        <Box sx={{ fontSize: 12.5, mb: 0.8 }}>
          Focal length {figure(m.focalPx, 0)} px
          {m.focalShare > 0 && ` ± ${figure(100 * m.focalShare, 2)} %`}
          {` (${figure((36 * m.focalPx) / Math.max(photo.widthPx, photo.heightPx), 1)} mm on 36 mm)`}
          {fromFile !== null && `; the file says ${figure(fromFile, 0)} px`}.
          {photo.bends && ` Lines bend by ${figure(100 * m.bending, 2)} % at the corners.`}
          {photo.cropped && ` The lens looked at ${figure(m.middle[0], 0)}, ${figure(m.middle[1], 0)} px, ± ${figure(m.middlePx, 0)}.`}
        </Box>
      )}
      {camera && answer?.solved && (
        <Box sx={{ fontSize: 12.5, mb: 0.8 }}>
          It stood at {camera.position.map((x) => bare(x, 0)).join(', ')} {unit}, ± {length(Math.hypot(...answer.solved.offMm), 0)}, looking{' '}
          {figure(Math.abs(tiltOf(camera).down), 1)}° {tiltOf(camera).down >= 0 ? 'down' : 'up'}, tilted{' '}
          {figure(Math.abs(tiltOf(camera).roll), 1)}° to its side.
        </Box>
      )}
      <Heading>Lens</Heading>
      {(photo.lens.focalMm || photo.lens.focal35Mm) && (
        <Box className="narrow" sx={{ fontSize: 12.5, color: 'text.secondary' }}>
          The file says {photo.lens.focalMm ? `${figure(photo.lens.focalMm, 1)} mm` : ''}
          {photo.lens.focalMm && photo.lens.focal35Mm ? ', ' : ''}
          {photo.lens.focal35Mm ? `as ${figure(photo.lens.focal35Mm, 0)} mm on film 36 mm wide` : ''}
          {photo.lens.focalMm && !photo.lens.focal35Mm && !photo.sensorMm ? '; that says nothing without the width of the sensor' : ''}.
        </Box>
      )}
      {cropped && (
        <Box sx={{ fontSize: 12.5, color: 'warning.main' }}>
          It has another shape than it was taken with: it was cropped. {!photo.cropped && 'Let the middle of the lens be found.'}
        </Box>
      )}
      {photo.lens.focalMm !== undefined && (
        <NumberField
          label="Width of the sensor"
          unit="mm"
          kind="number"
          min={0.5}
          max={1000}
          digits={2}
          hint={photo.sensorMm === undefined ? 'not said yet' : undefined}
          value={photo.sensorMm ?? 0}
          onCommit={(sensorMm) => put({ sensorMm })}
        />
      )}
      {fromFile !== null && (
        <Either
          label="Focal length"
          value={photo.lensHeld === true}
          words={['as the file says', 'found from edges']}
          onChange={(held) => put({ lensHeld: held || undefined })}
        />
      )}
      <Either
        label="Middle of the lens"
        hint={photo.cropped ? 'it takes three directions' : undefined}
        value={photo.cropped === true}
        words={['found: cropped', 'the picture’s']}
        onChange={(on) => put({ cropped: on || undefined })}
      />
      <Either
        label="Lines"
        hint={photo.bends ? 'double-click an edge for a handle between' : undefined}
        value={photo.bends === true}
        words={['bend, found', 'are straight']}
        onChange={(on) => put({ bends: on || undefined })}
      />
      <Heading>Box in the picture</Heading>
      <Choice<string>
        label="Corners are of"
        value={photo.part ?? ''}
        choices={[['', 'nothing yet'], ...document.parts.filter((p) => !p.aid).map((p): [string, string] => [p.id, p.name])]}
        onChange={(id) => put({ part: id || undefined })}
      />
      <Choice<string>
        label="Size that is known"
        value={known ? String(known.axis) : ''}
        choices={[['', 'all, as modelled'], ...SIZE_NAMES.map((n, i): [string, string] => [String(i), n])]}
        onChange={(v) => put({ known: v === '' ? undefined : { axis: Number(v) as 0 | 1 | 2, mm: sizeNow(box, Number(v) as 0 | 1 | 2) } })}
      />
      {known && (
        <NumberField label={SIZE_NAMES[known.axis]} min={0.01} value={known.mm} onCommit={(mm) => put({ known: { ...known, mm } })} />
      )}
      {answer?.wrong.sizes && <Box sx={{ fontSize: 12.5, color: 'warning.main' }}>{answer.wrong.sizes}</Box>}
      {sizes && known && (
        <>
          <FigureTable
            label="sizes the picture says"
            columns={['size', 'found', '±']}
            rows={AXES.map((axis, k) => ({
              key: axis,
              head: SIZE_NAMES[k],
              cells: [
                sizes.sizeMm[k] > 0 ? length(sizes.sizeMm[k], 1) : '–',
                k === known.axis ? 'known' : sizes.sizeMm[k] > 0 ? length(sizes.offMm[k], 1) : '–',
              ],
            }))}
          />
          {sizes.sizeMm.every((s) => s > 0) && (!part || step) && (
            <Button variant="outlined" sx={{ mt: 0.6 }} disabled={!isNow} onClick={() => takeSizes(session, document, photo, sizes.sizeMm)}>
              {part ? 'Take these sizes' : 'Make the box'}
            </Button>
          )}
        </>
      )}
      {photo.pins.length > 0 && (
        <FigureTable
          label="corners"
          columns={['corner', 'off, px', 'remove']}
          rows={photo.pins.map((p, i) => ({
            key: String(p.corner),
            head: cornerName(p.corner),
            cells: [
              corners?.[i] !== undefined ? figure(corners[i], 1) : '–',
              <Act
                key="take"
                quiet
                aria-label={`Remove ${cornerName(p.corner)}`}
                onClick={() => put({ pins: photo.pins.filter((x) => x !== p) })}
              >
                ×
              </Act>,
            ],
          }))}
        />
      )}
      {photo.edges.length > 0 && (
        <FigureTable
          label="edges"
          columns={['edge', 'off, px', 'remove']}
          rows={photo.edges.map((e, i) => ({
            key: e.id,
            head: `${i + 1}, along ${AXES[e.axis]}`,
            cells: [
              answer?.edgesPx[i] !== undefined ? figure(answer.edgesPx[i], 1) : '–',
              <Act key="take" quiet aria-label={`Remove edge ${i + 1}`} onClick={() => put({ edges: photo.edges.filter((x) => x !== e) })}>
                ×
              </Act>,
            ],
          }))}
        />
      )}
    </Box>
  );
}

/** What the part in the photograph measures along an axis, mm; something to begin with where there is none. */
const sizeNow = (box: PhotoSight['box'], axis: 0 | 1 | 2): number => (box ? rounded(box.max[axis] - box.min[axis]) : 100);
