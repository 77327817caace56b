'use client';

import { inBrowser } from '@/theme/in-browser';
import { Opening } from '@/theme/opening';

export const PlanPage = inBrowser(typeof window === 'undefined' ? null : () => import('./plan').then((m) => m.PlanView), Opening);
