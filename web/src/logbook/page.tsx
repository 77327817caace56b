'use client';

import { inBrowser } from '@/theme/in-browser';
import { Opening } from '@/theme/opening';

export const LogbookPage = inBrowser(typeof window === 'undefined' ? null : () => import('./logbook').then((m) => m.Logbook), Opening);
