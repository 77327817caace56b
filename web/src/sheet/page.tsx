'use client';

import { inBrowser } from '@/theme/in-browser';
import { Opening } from '@/theme/opening';

export const SheetPage = inBrowser(typeof window === 'undefined' ? null : () => import('./sheet').then((m) => m.Sheet), () => (
  <Opening>Opening the sheet …</Opening>
));
