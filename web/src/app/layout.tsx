import '@fontsource-variable/archivo/wdth.css';
import '@fontsource-variable/spline-sans-mono';
import InitColorSchemeScript from '@mui/material/InitColorSchemeScript';
import { AppRouterCacheProvider } from '@mui/material-nextjs/v16-appRouter';
import type { Metadata } from 'next';
import { headers } from 'next/headers';
import type { ReactNode } from 'react';
import { Providers } from '@/theme/providers';

export const metadata: Metadata = { title: 'Wellmorph', description: 'A bench for hard-surface props and products.' };

export default async function RootLayout({ children }: { children: ReactNode }) {
  const nonce = (await headers()).get('x-nonce') ?? undefined;
  return (
    <html lang="en" suppressHydrationWarning>
      <body>
        <InitColorSchemeScript nonce={nonce} attribute="data-sheet" defaultMode="light" />
        <AppRouterCacheProvider options={{ nonce, prepend: true }}>
          <Providers nonce={nonce}>{children}</Providers>
        </AppRouterCacheProvider>
      </body>
    </html>
  );
}
