import type { NextConfig } from 'next';

const config: NextConfig = {
  serverExternalPackages: [
    '@electric-sql/pglite',
    'draco3d',
    'ktx2-encoder',
    'manifold-3d',
    'meshoptimizer',
    'occt-import-js',
    'opentype.js',
  ],
  // A decoder asks for it on Node only; in the browser there is none to be had.
  turbopack: { resolveAlias: { module: { browser: './src/shared/no-module.ts' } } },
  poweredByHeader: false,
  // Class names are part of validation messages and of error handling.
  // Everything is served from this machine: minified code would save nothing and cost a third of the build.
  experimental: { serverMinification: false, turbopackMinify: false, turbopackSourceMaps: false, serverSourceMaps: false },
  // Types are checked by `npm run types`, over all of the project.
  typescript: { ignoreBuildErrors: true },
  // Shared memory between workers needs an isolated page.
  headers: async () => [
    {
      source: '/:path*',
      headers: [
        { key: 'Cross-Origin-Opener-Policy', value: 'same-origin' },
        { key: 'Cross-Origin-Embedder-Policy', value: 'require-corp' },
        { key: 'Cross-Origin-Resource-Policy', value: 'same-origin' },
        { key: 'X-Content-Type-Options', value: 'nosniff' },
        { key: 'X-Frame-Options', value: 'DENY' },
        { key: 'Referrer-Policy', value: 'no-referrer' },
      ],
    },
    { source: '/api/:path*', headers: [{ key: 'Content-Security-Policy', value: "default-src 'none'; frame-ancestors 'none'; sandbox" }] },
  ],
  devIndicators: false,
};

export default config;
