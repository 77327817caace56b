'use client';

import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Checkbox from '@mui/material/Checkbox';
import type { LayerShare } from '@wellmorph/core/surface/compose';
import { finestMm } from '@wellmorph/core/surface/layers/fields';
import { type Layer, MOST_LAYERS } from '@wellmorph/core/surface/layers/layer';
import { BEGINNINGS } from '@wellmorph/core/surface/layers/presets';
import { sectionLength, sectionOf } from '@wellmorph/core/surface/layers/section';
import { lacking, layerWords } from '@wellmorph/core/surface/layers/words';
import type { Material } from '@wellmorph/core/surface/material';
import { figure } from '@wellmorph/core/units/lengths';
import { useMemo, useState } from 'react';
import { useLengths, useSheet } from '@/session/context';
import { isFresh } from '@/session/state';
import { BeginMenu } from '@/sheet/begin-menu';
import { Heading } from '@/sheet/fields';
import { newId } from '@/sheet/ids';
import { Plain } from '@/sheet/plain';
import { MoveButtons, SortableList, SortableRow } from '@/sheet/sortable';
import { LayerFields } from './layer-fields';

/** The drawn part of a row, px. */
const [WIDE, HIGH] = [118, 26];
const SAMPLES = 118;
const css = (c: readonly number[]): string => `rgb(${c.map((x) => Math.round(255 * x)).join(' ')})`;

interface Bands {
  material: Material;
  /** Hears of sliders on their way. */
  onDraft(layers: Layer[]): void;
  onLayers(layers: Layer[]): void;
}

/** A material’s layers as a section through its surface: topmost first, each as thick and as broken as it lies there. */
export function Layers({ material, onDraft, onLayers }: Bands) {
  const { layers } = material;
  const document = useSheet((s) => s.document);
  const surface = useSheet((s) => s.surface);
  const bake = useSheet((s) => s.bake);
  const layout = useSheet((s) => s.unwrap);
  const { length } = useLengths();
  const [open, setOpen] = useState<string | null>(null);
  const [adding, setAdding] = useState<HTMLElement | null>(null);
  const long = sectionLength(layers);
  const drawn = useMemo(() => sectionOf(layers, long, SAMPLES), [layers, long]);
  if (!document) return null;
  const fresh = isFresh(document, surface, 'surface');
  const shares: readonly LayerShare[] = (fresh && surface?.figures.composed.materials.find((m) => m.id === material.id)?.layers) || [];
  const isBaked = isFresh(document, bake, 'bake');
  const has = { curvature: isBaked && !!bake?.files.curvature, occlusion: isBaked && !!bake?.files.occlusion };
  const density = isFresh(document, layout, 'unwrap') ? (layout?.figures.density ?? null) : null;
  const topmost = [...layers].reverse();
  const set = (id: string, patch: Partial<Layer>): Layer[] => layers.map((l) => (l.id === id ? { ...l, ...patch } : l));
  const move = (id: string, by: number) => {
    const from = layers.findIndex((l) => l.id === id);
    const next = layers.filter((l) => l.id !== id);
    // What is drawn from the top is kept from the bottom.
    next.splice(Math.min(next.length, Math.max(0, from - by)), 0, layers[from]);
    onLayers(next);
  };
  return (
    <Box component="section" aria-label="layers" sx={{ mt: 1.2 }}>
      <Heading aside="topmost first · drag a band to move it">Section through the surface</Heading>
      <SortableList rows={topmost} onMove={move}>
        {topmost.map((l) => {
          const share = shares.find((s) => s.id === l.id);
          const wrong = warning(l, { density, has, isBaked, share });
          const isOpen = open === l.id;
          return (
            <SortableRow key={l.id} id={l.id} name={l.name}>
              {(grip) => (
                <Box sx={{ bgcolor: isOpen ? 'sheet.tint' : undefined }}>
                  <Box sx={{ display: 'flex', alignItems: 'center', gap: 0.25 }}>
                    {grip}
                    <Plain
                      aria-expanded={isOpen}
                      onClick={() => setOpen(isOpen ? null : l.id)}
                      sx={{ flex: 1, minWidth: 0, gap: 0.8, py: 0.3, opacity: l.on ? 1 : 0.5 }}
                    >
                      <Band layer={l} amounts={drawn.get(l.id)} />
                      <Box sx={{ minWidth: 0, flex: 1 }}>
                        <Box component="span" sx={{ display: 'block', fontSize: 13, fontWeight: 600, lineHeight: 1.2 }}>
                          {l.name}
                        </Box>
                        <Box
                          component="span"
                          className="narrow"
                          sx={{ display: 'block', fontSize: 11.5, color: 'text.secondary', lineHeight: 1.25 }}
                        >
                          {layerWords(l)}
                          {share && !share.leftOut && (
                            <>
                              {' · '}
                              <span className="mono">{figure(100 * share.share, 1)} %</span>
                            </>
                          )}
                        </Box>
                      </Box>
                    </Plain>
                    <Checkbox
                      slotProps={{ input: { 'aria-label': `${l.name} is on` } }}
                      title={l.on ? 'Leave this layer off' : 'Lay it on'}
                      checked={l.on}
                      onChange={() => onLayers(set(l.id, { on: !l.on }))}
                      sx={{ p: 0.3 }}
                    />
                  </Box>
                  {wrong && (
                    <Box
                      sx={{ pl: 2.6, pb: 0.5, fontSize: 11.5, color: isOpen ? 'text.primary' : 'warning.main', lineHeight: 1.3 }}
                      className="narrow"
                    >
                      {wrong}
                    </Box>
                  )}
                  {isOpen && (
                    <Box sx={{ pl: 2.6, pr: 0.6, pb: 1 }}>
                      <LayerFields
                        layer={l}
                        material={material}
                        onDraft={(patch) => onDraft(set(l.id, patch))}
                        onLayer={(patch) => onLayers(set(l.id, patch))}
                        onCopy={() => {
                          const id = newId();
                          const at = layers.findIndex((x) => x.id === l.id) + 1;
                          onLayers([
                            ...layers.slice(0, at),
                            { ...structuredClone(l), id, name: `${l.name}, again`.slice(0, 80) },
                            ...layers.slice(at),
                          ]);
                          setOpen(id);
                        }}
                        canCopy={layers.length < MOST_LAYERS}
                        onRemove={() => {
                          setOpen(null);
                          onLayers(layers.filter((x) => x.id !== l.id));
                        }}
                      />
                      <Box sx={{ display: 'flex' }}>
                        <MoveButtons id={l.id} name={l.name} rows={topmost} onMove={(by) => move(l.id, by)} />
                      </Box>
                    </Box>
                  )}
                </Box>
              )}
            </SortableRow>
          );
        })}
      </SortableList>
      <Box sx={{ display: 'flex', alignItems: 'center', gap: 0.8, pl: '18px', mt: 0.3 }}>
        <Box sx={{ width: WIDE, flex: 'none' }}>
          <Box sx={{ height: 22, bgcolor: css(material.colour), border: 1, borderColor: 'divider' }} />
          <Box
            className="mono"
            sx={{ borderTop: 1, borderColor: 'text.secondary', mt: '5px', fontSize: 11, textAlign: 'center', lineHeight: 1.5 }}
          >
            {length(long)}
          </Box>
        </Box>
        <Box sx={{ fontSize: 12.5, alignSelf: 'flex-start', pt: 0.3 }} className="narrow">
          {material.name}, its base
        </Box>
      </Box>
      <Button
        variant="outlined"
        sx={{ mt: 0.6 }}
        aria-haspopup="menu"
        disabled={layers.length >= MOST_LAYERS}
        onClick={(e) => setAdding(e.currentTarget)}
      >
        Add a layer
      </Button>
      <BeginMenu
        label="kinds of layer"
        anchor={adding}
        beginnings={BEGINNINGS}
        onPick={(b) => {
          const id = newId();
          setAdding(null);
          onLayers([...layers, { id, ...b.make(material) }]);
          setOpen(id);
        }}
        onClose={() => setAdding(null)}
      />
    </Box>
  );
}

/** What of a layer can’t be seen as it is, in a sentence. */
function warning(
  l: Layer,
  about: { density: number | null; has: { curvature: boolean; occlusion: boolean }; isBaked: boolean; share: LayerShare | undefined },
): string | null {
  if (!l.on) return null;
  if (about.share?.leftOut) return 'Left out: the layer it follows is not below it.';
  const lacks = about.isBaked ? lacking(l, about.has) : null;
  if (lacks) return lacks;
  const finest = Math.min(...l.mask.flatMap((m) => finestMm(m.field) ?? []));
  const texels = about.density === null || !Number.isFinite(finest) ? null : (finest * about.density) / 10;
  if (texels === null || texels >= 2) return null;
  const blurs = l.mask.some(({ field: f }) => f.kind === 'edges' || f.kind === 'scratches' || f.kind === 'dents');
  return `Its finest is ${figure(texels, 1)} texels: under two it ${blurs ? 'blurs' : 'becomes an even tone'}. ${figure(2 / texels, 1)} times the texture size would carry it.`;
}

/** One layer across the section: what lies there, as high as it covers. */
function Band({ layer, amounts }: { layer: Layer; amounts: Float32Array | undefined }) {
  const top = (i: number) => HIGH - 2 - (HIGH - 6) * (amounts?.[i] ?? 0) * Math.max(0.25, layer.opacity);
  const line = amounts ? Array.from(amounts, (_, i) => `L${((i + 0.5) * WIDE) / SAMPLES} ${top(i).toFixed(1)}`).join('') : '';
  const { colour } = layer.look;
  return (
    <Box
      component="svg"
      viewBox={`0 0 ${WIDE} ${HIGH}`}
      aria-hidden
      sx={{ width: WIDE, height: HIGH, flex: 'none', color: 'text.primary' }}
    >
      <line x1={0} x2={WIDE} y1={HIGH - 2} y2={HIGH - 2} stroke="currentColor" strokeOpacity={0.45} strokeDasharray="1.5 2.5" />
      {amounts && (
        <path
          d={`M0 ${HIGH - 2}${line}L${WIDE} ${HIGH - 2}Z`}
          fill={colour ? css(colour) : 'currentColor'}
          fillOpacity={colour ? 1 : 0.12}
          stroke="currentColor"
          strokeWidth={0.6}
          strokeOpacity={0.7}
        />
      )}
    </Box>
  );
}
