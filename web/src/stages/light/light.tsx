'use client';

import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import { LAMPS, type LampChoice, type LampName, type Rig } from '@wellmorph/core/light/rig';
import { TONES } from '@wellmorph/core/light/tone';
import type { Photo } from '@wellmorph/core/photo/photo';
import { F_STOPS } from '@wellmorph/core/shot/lens';
import { azimuthOf, SHOT_DEFAULTS, type Shot } from '@wellmorph/core/shot/shot';
import { figure } from '@wellmorph/core/units/lengths';
import { useState } from 'react';
import { Piece, PlateFoot, PlateTop, PlateWords, TwoPlates } from '@/plates/plate';
import { useSession, useSheet } from '@/session/context';
import { AdviceCard } from '@/sheet/advice';
import { Columns } from '@/sheet/columns';
import { type FieldRow, FieldRows } from '@/sheet/field-rows';
import { Choice, Heading, NumberField } from '@/sheet/fields';
import { JobBar } from '@/sheet/job-bar';
import { LessonsBeside } from '@/sheet/lessons-beside';
import { useMaterials } from '@/sheet/materials';
import { ColourField } from '@/sheet/slider';
import { Figures, inSeconds } from './figures';
import { LightPlan } from './plan';
import { acceptShot, withLight } from './run';
import { useLight } from './use-light';

const SHOT_ROWS: FieldRow<Shot>[] = [
  { key: 'azimuth', label: 'Round the piece', unit: '°', min: -180, max: 180, digits: 0, step: 1 },
  { key: 'elevation', label: 'Height', unit: '°', min: -20, max: 80, digits: 0, step: 1 },
  { key: 'lensMm', label: 'Lens', unit: 'mm', min: 8, max: 1000, kind: 'length' },
  { key: 'sensorHeightMm', label: 'Sensor height', unit: 'mm', min: 1, max: 200, kind: 'length' },
  { key: 'margin', label: 'Margin', unit: '%', min: 0, max: 40, digits: 1, scale: 100 },
  {
    key: 'sharpShare',
    label: 'Wanted sharp',
    hint: 'of the piece’s depth, from the front',
    unit: '%',
    min: 2,
    max: 100,
    digits: 0,
    scale: 100,
  },
];
const PICTURE_ROWS: FieldRow<Shot>[] = [
  { key: 'widthPx', label: 'Wide', unit: 'px', min: 16, max: 16384, kind: 'whole' },
  { key: 'heightPx', label: 'High', unit: 'px', min: 16, max: 16384, kind: 'whole' },
];
const LAMP_ROWS: FieldRow<LampChoice>[] = [
  { key: 'ratio', label: 'Arriving light', hint: 'wanted against the others', unit: '', min: 0.01, max: 100 },
  { key: 'turn', label: 'Turn', unit: '°', min: -180, max: 180, digits: 0, step: 1 },
  { key: 'raise', label: 'Raise', unit: '°', min: -10, max: 90, digits: 0, step: 1 },
  { key: 'distance', label: 'Distance', unit: 'r', min: 1.2, max: 20 },
  { key: 'width', label: 'Width', unit: 'r', min: 0.05, max: 10 },
  { key: 'height', label: 'Height of it', unit: 'r', min: 0.05, max: 10 },
  { key: 'kelvin', label: 'Colour', unit: 'K', min: 1000, max: 15000, digits: 0 },
];
const ROUND_ROWS: FieldRow<Rig>[] = [
  { key: 'surround', label: 'From all round', hint: 'share of the key', unit: '%', min: 0, max: 400, digits: 0, scale: 100 },
];

const NAMES: Record<LampName, string> = { key: 'Key', fill: 'Fill', rim: 'Rim' };
const SHUTTERS = [1 / 125, 1 / 60, 1 / 30, 1 / 15, 1 / 8, 1 / 4, 1 / 2, 1, 2, 4] as const;

/** The usual shutters, and the one that is set where it is none of them. */
const shutters = (own: number): number[] =>
  SHUTTERS.some((s) => Math.abs(s / own - 1) < 0.01) ? [...SHUTTERS] : [...SHUTTERS, own].sort((a, b) => a - b);

/** The longer side of a picture that stands in a photograph, px: more of it is rarely looked at, and each is traced. */
const PHOTO_PX = 1600;

/** The shot through a photograph, in its shape; framed for the piece again, as it was at first, without one. */
function photographed(photo: Photo | undefined): Partial<Shot> {
  if (!photo) return { photo: '', widthPx: SHOT_DEFAULTS.widthPx, heightPx: SHOT_DEFAULTS.heightPx };
  const k = Math.min(1, PHOTO_PX / Math.max(photo.widthPx, photo.heightPx));
  return { photo: photo.id, widthPx: Math.round(photo.widthPx * k), heightPx: Math.round(photo.heightPx * k) };
}

export function LightStage() {
  const session = useSession();
  const document = useSheet((s) => s.document);
  const form = useSheet((s) => s.form);
  const layout = useSheet((s) => s.unwrap);
  const materialOf = useMaterials();
  const { view, trouble } = useLight();
  const [lamp, setLamp] = useState<LampName>('key');
  if (!document) return null;
  const { shot, rig } = document;
  const setShot = (patch: Partial<Shot>) => session.dispatch({ type: 'shot.set', patch });
  const setRig = (patch: Partial<Rig>) => session.dispatch({ type: 'rig.set', patch });
  const setLampTo = (patch: Partial<LampChoice>) => setRig({ lamps: { ...rig.lamps, [lamp]: { ...rig.lamps[lamp], ...patch } } });
  const l = rig.lamps[lamp];
  const gpu = form?.gpu ?? layout?.gpu;
  const locked = shot.locked;
  const through = shot.photo !== undefined;
  const photos = document.photos ?? [];
  const azimuth = through && view ? azimuthOf(view.shot.camera) : shot.azimuth;
  return (
    <Columns
      controls={
        <Box sx={{ px: 1.8 }}>
          <LessonsBeside kind="rig" subject={rig.name} />
          <LessonsBeside kind="stage" subject="light" />
          <Heading aside={locked ? 'locked' : through ? 'as photographed' : 'framed for the piece'}>Shot</Heading>
          {(photos.length > 0 || through) && (
            <Choice<string>
              label="Seen"
              hint={through ? 'through a photograph, which stands behind' : undefined}
              value={shot.photo ?? ''}
              choices={[['', 'framed for the piece'], ...photos.map((p): [string, string] => [p.id, p.name])]}
              onChange={(id) => setShot(photographed(photos.find((p) => p.id === id)))}
            />
          )}
          <FieldRows rows={SHOT_ROWS} of={shot} set={setShot} disabled={locked || through} />
          <Choice
            label="Aperture"
            value={shot.aperture ?? 0}
            choices={[[0, view ? `solved: f/${view.shot.aperture}` : 'solved'] as const, ...F_STOPS.map((f) => [f, `f/${f}`] as const)]}
            onChange={(f) => setShot({ aperture: f === 0 ? null : f })}
          />
          <Choice
            label="Exposure"
            hint={`ISO ${shot.iso}`}
            value={SHUTTERS.find((s) => Math.abs(s / shot.seconds - 1) < 0.01) ?? shot.seconds}
            choices={shutters(shot.seconds).map((s) => [s, inSeconds(s)] as const)}
            onChange={(seconds) => setShot({ seconds })}
          />
          <FieldRows rows={PICTURE_ROWS} of={shot} set={setShot} disabled={locked || through} />
          <Choice
            label="Curve"
            value={shot.tone}
            choices={[
              ['neutral', TONES.neutral],
              ['linear', TONES.linear],
            ]}
            onChange={(tone) => setShot({ tone })}
          />
          <Box sx={{ display: 'flex', gap: 1, my: 1.2 }}>
            {locked ? (
              <Button variant="outlined" onClick={() => setShot({ locked: false })}>
                Unlock the shot
              </Button>
            ) : (
              <>
                <Button variant="contained" disabled={!view} onClick={() => void acceptShot(session)}>
                  Lock the shot
                </Button>
                <Button onClick={() => setShot({ ...SHOT_DEFAULTS, name: shot.name, photo: '' })}>Start over</Button>
              </>
            )}
          </Box>
          <Heading aside="sizes in radii of the piece">Light</Heading>
          <Box role="tablist" aria-label="lamps" sx={{ display: 'flex', gap: 0.6, my: 0.8 }}>
            {LAMPS.map((name) => (
              <Button
                key={name}
                role="tab"
                aria-selected={lamp === name}
                variant={lamp === name ? 'contained' : 'outlined'}
                sx={{ flex: 1, minWidth: 0 }}
                onClick={() => setLamp(name)}
              >
                {NAMES[name]}
              </Button>
            ))}
          </Box>
          {view && (
            <NumberField
              label="Power"
              hint={rig.power ? 'kept whatever the camera does' : 'as the usual shutter asks for'}
              kind="number"
              unit="W"
              min={0}
              max={1e6}
              digits={2}
              value={view.rig.power[lamp]}
              onCommit={(watts) => void withLight(session, ({ rig: r }) => void setRig({ power: { ...r.power, [lamp]: watts } }))}
            />
          )}
          <FieldRows rows={LAMP_ROWS} of={l} set={setLampTo} />
          <Box sx={{ mt: 1.2 }}>
            <Heading>Surroundings</Heading>
            <FieldRows rows={ROUND_ROWS} of={rig} set={setRig} />
            <Choice
              label="Ground"
              value={rig.background}
              choices={[
                ['paper', 'swept paper, lit'],
                ['white', 'white'],
                ['colour', 'a colour'],
                ['transparent', 'clear, with shadow'],
              ]}
              hint={through ? 'the photograph, with its shadow' : undefined}
              onChange={(background) => setRig({ background })}
            />
            <ColourField
              label={rig.background === 'colour' ? 'Its colour' : 'Paper'}
              value={rig.colour}
              onCommit={(colour) => setRig({ colour })}
            />
          </Box>
        </Box>
      }
      plate={
        <>
          {!gpu || gpu.length === 0 ? (
            <PlateWords>There is nothing to light yet. Form the piece or import one first.</PlateWords>
          ) : (
            <TwoPlates
              left={
                <>
                  <PlateTop>
                    <Box className="narrow" sx={{ color: 'text.secondary', fontSize: 12.5 }}>
                      Sharp between the two brass planes, sharpest at the green one
                    </Box>
                  </PlateTop>
                  <Piece came={form !== null} gpu={gpu} materialOf={materialOf} limits={view?.shot} turn={azimuth + 78} />
                </>
              }
              right={
                <>
                  <PlateTop>
                    <Box className="narrow" sx={{ color: 'text.secondary', fontSize: 12.5 }}>
                      From above, to scale
                    </Box>
                  </PlateTop>
                  {view && <LightPlan view={view} azimuth={azimuth} />}
                  {view && (
                    <PlateFoot>
                      <span />
                      <span>
                        the piece fills {figure(100 * view.shot.fill[0], 0)} × {figure(100 * view.shot.fill[1], 0)} % of the picture
                      </span>
                    </PlateFoot>
                  )}
                </>
              }
            />
          )}
          <JobBar />
        </>
      }
      aside={
        trouble ? (
          <AdviceCard level="over" title={trouble}>
            Nothing was changed.
          </AdviceCard>
        ) : (
          view && <Figures view={view} shot={shot} decided={rig.power !== null} />
        )
      }
    />
  );
}
