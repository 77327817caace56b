'use client';

import dynamic from 'next/dynamic';
import { Opening } from '@/theme/opening';

export const SheetPage = dynamic(() => import('./sheet').then((m) => m.Sheet), {
  ssr: false,
  loading: () => <Opening>Opening the sheet …</Opening>,
});
