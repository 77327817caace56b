'use client';

import type { Material } from '@wellmorph/core/pipeline/document';
import { useCallback } from 'react';
import { useSheet } from '@/session/context';

/** Part id → its material. */
export function useMaterials(): (part: string) => Material | undefined {
  const parts = useSheet((s) => s.document?.parts);
  const materials = useSheet((s) => s.document?.materials);
  return useCallback((id: string) => materials?.find((m) => m.id === parts?.find((p) => p.id === id)?.material), [parts, materials]);
}
