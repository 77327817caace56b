'use client';

import { inBrowser } from '@/theme/in-browser';
import { Opening } from '@/theme/opening';

export const WorkshopPage = inBrowser(typeof window === 'undefined' ? null : () => import('./workshop').then((m) => m.Workshop), Opening);
