'use client';

import Box from '@mui/material/Box';
import ToggleButton from '@mui/material/ToggleButton';
import { several } from '@wellmorph/core/pipeline/commands/together';
import type { AssetDocument } from '@wellmorph/core/pipeline/document';
import { fileName } from '@wellmorph/core/pipeline/file-name';
import { type Artwork, type Cut, dpiOf, type From, PRINT_MM, type Print } from '@wellmorph/core/print/print';
import type { PrintFigures } from '@wellmorph/core/print/verdict';
import { BLENDS, type BlendMode } from '@wellmorph/core/surface/blend';
import { MOST_RELIEF } from '@wellmorph/core/surface/layers/layer';
import { figure } from '@wellmorph/core/units/lengths';
import { useId, useRef } from 'react';
import { artworkFiles } from '@/session/artwork-files';
import { useSession, useSheet } from '@/session/context';
import { sentence } from '@/session/session';
import { isFresh } from '@/session/state';
import { download } from '@/sheet/download';
import { Choice, Either, NumberField } from '@/sheet/fields';
import { useFiles } from '@/sheet/file-input';
import { NameField } from '@/sheet/name-field';
import { Act, Written } from '@/sheet/plain';
import { ColourField, SliderField } from '@/sheet/slider';
import { bringArtwork } from './print-bring';
import { useWatchedFile } from './print-watch';

/** Of templates as pixels: what fine print is drawn at, common practice, no source. */
const TEMPLATE_DPI = 600;
const BLENDINGS = Object.keys(BLENDS).map((b) => [b as BlendMode, b === 'normal' ? 'as it is' : b.replace('-', ' ')] as const);
/** A print without what it doesn’t say. */
const settled = (print: Print): Print => JSON.parse(JSON.stringify(print)) as Print;

/** From where a print is measured, across and up. */
const ACROSS: Record<From, string> = { put: 'where it was put', low: 'the left edge', high: 'the right edge', middle: 'the middle' };
const UP: Record<From, string> = { put: 'where it was put', low: 'the lower edge', high: 'the upper edge', middle: 'the middle' };
const ROUND: Partial<Record<From, string>> = { put: 'where it was put', middle: 'the front' };

/** Everything one print is: its artwork, its size, where it lies, its ink. */
export function PrintFields({
  document,
  print,
  figures,
  putting,
  onPutting,
  onDraft,
}: {
  document: AssetDocument;
  print: Print;
  figures: PrintFigures | null;
  putting: boolean;
  onPutting(on: boolean): void;
  onDraft(next: Print): void;
}) {
  const session = useSession();
  const id = useId();
  const { artwork, ink } = print;
  /** The print as it is now: fields that answer later change only what they are about. */
  const set = (patch: Partial<Print>) => {
    const now = session.document?.prints?.find((p) => p.id === print.id);
    if (now) session.dispatch({ type: 'print.set', print: settled({ ...now, ...patch }) });
  };
  const setInk = (patch: Partial<Print['ink']>, drop?: keyof Print['ink']) => {
    const next = { ...ink, ...patch };
    if (drop) delete next[drop];
    return { ink: next };
  };
  /** What is set here has the size that it comes to. One change after the other: each is made on what the one before has come to. */
  const changing = useRef<Promise<void>>(Promise.resolve());
  const change = (patch: object) => {
    changing.current = changing.current.then(async () => {
      const now = session.document?.prints?.find((p) => p.id === print.id);
      if (!now) return;
      const next = settled({ ...now, artwork: { ...now.artwork, ...patch } as Artwork });
      try {
        const files = await artworkFiles([next.artwork], session.bench.blobs);
        const { size } = await session.bench.pool.run('artwork', { artwork: next.artwork, name: next.name, files });
        set({ artwork: next.artwork, ...(next.artwork.kind !== 'picture' && size && { width: size.width, height: size.height }) });
      } catch (error) {
        session.notify(sentence(error), 'error');
      }
    });
  };
  /** Another artwork: its place and its width stay; so does its height, where it has the same proportions. */
  const replace = async (file: File) => {
    const made = await bringArtwork(session, file);
    const now = made && session.document?.prints?.find((p) => p.id === print.id);
    if (!made || !now) return;
    const height = (now.width * made.artwork.heightPx) / made.artwork.widthPx;
    const same = Math.abs(height / now.height - 1) < 0.02;
    set({ artwork: made.artwork, ...(!same && { height: Math.min(PRINT_MM.max, Math.max(PRINT_MM.min, height)) }) });
  };
  const files = useFiles({
    label: 'Another artwork',
    accept: 'image/png,image/jpeg,image/webp,image/svg+xml,.svg',
    onFiles: ([file]) => void replace(file),
  });
  const watched = useWatchedFile(replace);
  const laid = useSheet((s) => (isFresh(s.document, s.unwrap, 'unwrap') ? (s.unwrap?.parts ?? null) : null));
  const template = async (as: 'svg' | 'pdf' | 'png') => {
    const { document: now } = session;
    if (!laid || !now) return;
    try {
      const { parts, materials, prints } = now;
      const ask = { parts: laid, document: { parts, materials, prints }, print: print.id, as, dpi: TEMPLATE_DPI };
      const { file } = await session.bench.pool.run('printTemplate', ask);
      download(`${fileName(now.name)}_${fileName(print.name)}_template.${as}`, file);
    } catch (error) {
      session.notify(sentence(error), 'error');
    }
  };
  const others = (document.prints ?? []).filter((p) => p.id !== print.id);
  const goesRound = (k: 0 | 1) => figures?.girth?.axis === k;
  const places = (k: 0 | 1): [From, string][] => {
    const words = goesRound(k) ? ROUND : k === 0 ? ACROSS : UP;
    const known = Object.entries(words) as [From, string][];
    const now = k === 0 ? print.across.from : print.up.from;
    // One that was chosen on another face and means the middle here.
    return known.some(([f]) => f === now) ? known : [...known, [now, (k === 0 ? ACROSS : UP)[now]]];
  };
  /** Measured from somewhere else, it stays where it is. */
  const measuredFrom = (k: 0 | 1, from: From): number => {
    const now = k === 0 ? print.across : print.up;
    if (!figures || from === 'put') return from === now.from ? now.mm : 0;
    const [before, after] = k === 0 ? [figures.edges.left, figures.edges.right] : [figures.edges.below, figures.edges.above];
    if (before === null || after === null) return 0;
    const mm = from === 'low' ? before : from === 'high' ? after : (before - after) / 2;
    return Math.round(1000 * mm) / 1000;
  };
  const opposite = figures?.girth ?? null;
  return (
    <Box {...files.zone}>
      <NameField label="Name" id={`${id}-name`} value={print.name} onName={(name) => set({ name })} />
      <ArtworkFields artwork={artwork} print={print} onArtwork={change} />
      {files.input}
      <Box sx={{ display: 'flex', flexWrap: 'wrap', gap: 1.2, py: 0.4 }}>
        <Act onClick={files.choose}>{artwork.kind === 'picture' ? 'Replace the artwork' : 'Artwork in its place'}</Act>
        {watched.watch && (
          <Act
            title="A file that is painted on elsewhere is taken whenever it is saved"
            onClick={watched.name === null ? watched.watch : watched.stop}
          >
            {watched.name === null ? 'Watch a file' : `Stop watching ${watched.name}`}
          </Act>
        )}
        <Act disabled={!laid} title="What lies under it, in its own size: to paint on" onClick={() => void template('svg')}>
          Template, SVG
        </Act>
        <Act disabled={!laid} title={`The same as pixels, ${TEMPLATE_DPI} an inch`} onClick={() => void template('png')}>
          Template, PNG
        </Act>
        <Act disabled={!laid} title="The same as a page for print" onClick={() => void template('pdf')}>
          Template, PDF
        </Act>
      </Box>
      {others.length > 0 && (
        <Choice
          label="Swap with"
          value={'' as string}
          choices={[['', 'no other'], ...others.map((p): [string, string] => [p.id, p.name])]}
          onChange={(other) => {
            const [a, b] = [print.id, other].map((x) => session.document?.prints?.find((p) => p.id === x));
            if (!a || !b) return;
            session.dispatch(
              several(`swapped ${a.name} and ${b.name}`, [
                { type: 'print.set', print: { ...a, artwork: b.artwork, name: b.name } },
                { type: 'print.set', print: { ...b, artwork: a.artwork, name: a.name } },
              ]),
            );
          }}
        />
      )}
      {artwork.kind === 'picture' && (
        <>
          <NumberField
            label="Width"
            min={PRINT_MM.min}
            max={PRINT_MM.max}
            value={print.width}
            onCommit={(width) => set({ width, height: (print.height * width) / print.width })}
          />
          <NumberField
            label="Height"
            min={PRINT_MM.min}
            max={PRINT_MM.max}
            value={print.height}
            onCommit={(height) => set({ height, width: (print.width * height) / print.height })}
          />
        </>
      )}
      <Box sx={{ display: 'flex', alignItems: 'center', justifyContent: 'space-between', minHeight: 36 }}>
        <Box className="narrow" sx={{ fontSize: 13 }}>
          On the piece
        </Box>
        <ToggleButton value="put" selected={putting} onChange={() => onPutting(!putting)}>
          {putting ? 'Press or drag there' : 'Put it elsewhere'}
        </ToggleButton>
      </Box>
      {[0, 1].map((axis) => {
        const k = axis as 0 | 1;
        const key = k === 0 ? 'across' : 'up';
        const now = print[key];
        return (
          <Box key={key}>
            <Choice
              label={k === 0 ? 'Across, from' : 'Up, from'}
              value={now.from}
              choices={places(k)}
              onChange={(from) => set({ [key]: { from, mm: measuredFrom(k, from) } })}
            />
            <NumberField
              label={now.from === 'low' || now.from === 'high' ? 'Edge to edge' : k === 0 ? 'To the right' : 'Upwards'}
              min={-1e4}
              max={1e4}
              value={now.mm}
              hint={goesRound(k) && figures?.round ? `${figure((now.mm / (Math.PI * figures.round.diameter)) * 360, 1)}° round` : undefined}
              onCommit={(mm) => set({ [key]: { ...now, mm } })}
            />
          </Box>
        );
      })}
      {opposite && (
        <Act
          onClick={() => {
            const key = opposite.axis === 0 ? 'across' : 'up';
            const now = print[key];
            const half = opposite.mm / 2;
            set({ [key]: { ...now, mm: Math.round(1e4 * (now.mm > 0 ? now.mm - half : now.mm + half)) / 1e4 } });
          }}
        >
          To the other side
        </Act>
      )}
      <SliderField
        label="Turned"
        unit="°"
        min={-180}
        max={180}
        step={1}
        digits={1}
        value={print.turn}
        onDrag={(turn) => onDraft({ ...print, turn })}
        onCommit={(turn) => set({ turn })}
      />
      <Either
        label="Read"
        value={print.mirrored === true}
        words={['mirrored', 'as it is']}
        onChange={(mirrored) => set({ mirrored: mirrored || undefined })}
      />
      <RegionChoice document={document} print={print} onRegion={(region) => set({ region })} />
      <SliderField
        label="Covers"
        unit="%"
        min={0}
        max={100}
        step={1}
        digits={0}
        value={100 * ink.opacity}
        onDrag={(v) => onDraft({ ...print, ...setInk({ opacity: v / 100 }) })}
        onCommit={(v) => set(setInk({ opacity: v / 100 }))}
      />
      <Choice label="Laid on" value={ink.blend} choices={BLENDINGS} onChange={(blend) => set(setInk({ blend }))} />
      {(
        [
          ['roughness', 'Roughness', 0.6],
          ['metallic', 'Metal', 1],
          ['coat', 'Clear coat', 1],
        ] as const
      ).map(([key, label, usual]) => (
        <Box key={key}>
          <Either
            label={label}
            value={ink[key] !== undefined}
            words={['its own', 'as below']}
            onChange={(own) => set(own ? setInk({ [key]: usual }) : setInk({}, key))}
          />
          {ink[key] !== undefined && (
            <SliderField
              label={`${label} of the ink`}
              min={0}
              max={1}
              step={0.01}
              value={ink[key] ?? 0}
              onDrag={(v) => onDraft({ ...print, ...setInk({ [key]: v }) })}
              onCommit={(v) => set(setInk({ [key]: v }))}
            />
          )}
        </Box>
      ))}
      <NumberField
        label="Stands out"
        hint="embossed where it is less than 0"
        kind="number"
        unit="µm"
        min={-MOST_RELIEF}
        max={MOST_RELIEF}
        value={ink.relief ?? 0}
        onCommit={(relief) => set(relief === 0 ? setInk({}, 'relief') : setInk({ relief }))}
      />
      <NumberField
        label="Keep clear"
        hint="between its edges and those of the face"
        min={0}
        max={100}
        value={print.keepClear ?? 0}
        onCommit={(keepClear) => set({ keepClear: keepClear || undefined })}
      />
    </Box>
  );
}

/** Within which region of its part a print stays. */
function RegionChoice({ document, print, onRegion }: { document: AssetDocument; print: Print; onRegion(id: string | undefined): void }) {
  const regions = document.parts.find((p) => p.id === print.part)?.regions ?? [];
  if (regions.length === 0) return null;
  return (
    <Choice
      label="Only on"
      value={print.region ?? ''}
      choices={[['', 'all of the part'], ...regions.map((r): [string, string] => [r.id, r.name])]}
      onChange={(id) => onRegion(id || undefined)}
    />
  );
}

/** What an artwork is made of. */
function ArtworkFields({ artwork, print, onArtwork }: { artwork: Artwork; print: Print; onArtwork(patch: object): void }) {
  const id = useId();
  if (artwork.kind === 'picture') {
    const isDrawing = artwork.mime === 'image/svg+xml';
    const dpi = dpiOf(artwork.widthPx, print.width);
    return (
      <>
        <Box className="narrow" sx={{ fontSize: 12, color: 'text.secondary', overflowWrap: 'anywhere' }}>
          {artwork.fileName}
          {isDrawing
            ? ', drawn from lines'
            : `, ${artwork.widthPx} × ${artwork.heightPx} px, ${figure(dpi, 0)} dpi at this size${artwork.dpi ? `, ${figure(artwork.dpi, 0)} in its file` : ''}`}
        </Box>
        <NameField
          label="From, licence"
          id={`${id}-source`}
          value={artwork.source ?? ''}
          most={300}
          onName={(source) => onArtwork({ source })}
        />
        {!isDrawing && (
          <Choice
            label="Not printed"
            value={typeof artwork.cut === 'object' ? 'colour' : (artwork.cut ?? 'nothing')}
            choices={[
              ['nothing', 'what is clear in it'],
              ['white', 'what is white'],
              ['black', 'what is black'],
              ['colour', 'what is of a colour'],
            ]}
            onChange={(cut) =>
              onArtwork({
                cut: cut === 'nothing' ? undefined : cut === 'colour' ? { colour: [1, 1, 1], reach: 24 } : (cut as 'white' | 'black'),
              })
            }
          />
        )}
        {typeof artwork.cut === 'object' && <CutColour cut={artwork.cut} onCut={(cut) => onArtwork({ cut })} />}
      </>
    );
  }
  const length = (label: string, key: string, min: number, max: number, value: number) => (
    <NumberField key={key} label={label} min={min} max={max} value={value} onCommit={(v) => onArtwork({ [key]: v })} />
  );
  const number = (label: string, key: string, kind: 'number' | 'whole', unit: string, min: number, max: number, value: number) => (
    <NumberField
      key={key}
      label={label}
      kind={kind}
      unit={unit}
      min={min}
      max={max}
      value={value}
      onCommit={(v) => onArtwork({ [key]: v })}
    />
  );
  return (
    <>
      {artwork.kind === 'text' && (
        <>
          <Box component="label" htmlFor={`${id}-text`} className="narrow" sx={{ display: 'block', fontSize: 13, pt: 0.4 }}>
            Text
          </Box>
          <Written
            key={artwork.text}
            id={`${id}-text`}
            multiline
            fullWidth
            defaultValue={artwork.text}
            inputProps={{ maxLength: 2000 }}
            onBlur={(e) => {
              const text = e.target.value;
              if (!text.trim()) e.target.value = artwork.text;
              else if (text !== artwork.text) onArtwork({ text });
            }}
            sx={{ my: 0.4 }}
          />
          {length('Capitals', 'capital', 0.2, 500, artwork.capital)}
          {number('Between letters', 'tracking', 'number', '‰', -500, 5000, artwork.tracking)}
          {artwork.text.includes('\n') && (
            <>
              {number('Lines apart', 'leading', 'number', '× capital', 0.5, 10, artwork.leading)}
              <Choice
                label="Lines begin"
                value={artwork.align}
                choices={[
                  ['left', 'at the left'],
                  ['middle', 'round the middle'],
                  ['right', 'at the right'],
                ]}
                onChange={(align) => onArtwork({ align })}
              />
            </>
          )}
          {length('Round an arc of radius', 'arc', -5000, 5000, artwork.arc)}
        </>
      )}
      {artwork.kind === 'dial' && (
        <>
          {number('From', 'from', 'number', '', -1e6, 1e6, artwork.from)}
          {number('To', 'to', 'number', '', -1e6, 1e6, artwork.to)}
          {number('A numeral every', 'step', 'number', '', 1e-6, 1e6, artwork.step)}
          {number('Parts between', 'parts', 'whole', '', 1, 100, artwork.parts)}
          {number('Begins', 'begins', 'number', '°', -360, 360, artwork.begins)}
          {number('Goes round', 'sweep', 'number', '°', -360, 360, artwork.sweep)}
          {length('Over the ticks', 'diameter', 2, 5000, artwork.diameter)}
          {length('Long ticks', 'long', 0.05, 500, artwork.long)}
          {length('Short ticks', 'short', 0.05, 500, artwork.short)}
          {length('Thick', 'thick', 0.02, 100, artwork.thick)}
          {length('Numerals', 'numerals', 0.2, 500, artwork.numerals)}
          <NameField label="Unit" id={`${id}-unit`} value={artwork.unit} most={40} width={96} onName={(unit) => onArtwork({ unit })} />
        </>
      )}
      {artwork.kind === 'bars' && (
        <>
          {length('Width', 'width', 1, 1000, artwork.width)}
          {length('Height', 'height', 1, 1000, artwork.height)}
          {number('Which bars', 'seed', 'whole', '', 0, 1e9, artwork.seed)}
        </>
      )}
      <ColourField label="Ink" value={artwork.colour} onCommit={(colour) => onArtwork({ colour })} />
      <Box className="narrow" sx={{ fontSize: 12, color: 'text.secondary' }}>
        {figure(print.width, 1)} × {figure(print.height, 1)} mm
      </Box>
    </>
  );
}

/** Which colour of a picture is left out, and how far from it others are too. */
function CutColour({ cut, onCut }: { cut: { colour: [number, number, number]; reach: number }; onCut(cut: Cut): void }) {
  return (
    <>
      <ColourField label="Left out" value={cut.colour} onCommit={(colour) => onCut({ ...cut, colour })} />
      <NumberField
        label="And what is like it"
        hint="levels of 255; its edge is as wide again"
        kind="whole"
        unit=""
        min={0}
        max={255}
        value={cut.reach}
        onCommit={(reach) => onCut({ ...cut, reach })}
      />
    </>
  );
}
