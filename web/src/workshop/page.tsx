'use client';

import dynamic from 'next/dynamic';
import { Opening } from '@/theme/opening';

export const WorkshopPage = dynamic(() => import('./workshop').then((m) => m.Workshop), { ssr: false, loading: () => <Opening /> });
