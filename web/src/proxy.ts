import { type NextRequest, NextResponse } from 'next/server';

/**
 * What a page may load and run (W3C Content Security Policy, level 3): its own files, scripts and styles that carry this answer's nonce,
 * WebAssembly, workers. Nothing is ever evaluated from text, and nothing comes from elsewhere.
 */
const policy = (nonce: string, development: boolean): string =>
  [
    "default-src 'self'",
    `script-src 'self' 'nonce-${nonce}' 'strict-dynamic' 'wasm-unsafe-eval'${development ? " 'unsafe-eval'" : ''}`,
    `style-src 'self' 'nonce-${nonce}'`,
    // Single places and widths are given to elements by scripts; no text can bring any.
    "style-src-attr 'unsafe-inline'",
    "img-src 'self' blob: data:",
    "font-src 'self' data:",
    "connect-src 'self' blob: data:",
    "worker-src 'self' blob:",
    "object-src 'none'",
    "base-uri 'none'",
    "form-action 'self'",
    "frame-ancestors 'none'",
  ].join('; ');

export function proxy(request: NextRequest): NextResponse {
  const nonce = Buffer.from(crypto.randomUUID()).toString('base64');
  const csp = policy(nonce, process.env.NODE_ENV === 'development');
  const headers = new Headers(request.headers);
  // Read by the framework for its own scripts, and by the layout for the theme's.
  headers.set('x-nonce', nonce);
  headers.set('Content-Security-Policy', csp);
  const answer = NextResponse.next({ request: { headers } });
  answer.headers.set('Content-Security-Policy', csp);
  return answer;
}

/** Pages only: answers of routes are data, and built files don't change. */
export const config = { matcher: ['/((?!api/|_next/|icon).*)'] };
