'use client';

import Link, { type LinkProps } from 'next/link';
import { useRouter } from 'next/navigation';
import type { AnchorHTMLAttributes } from 'react';

type PageLinkProps = Omit<LinkProps, 'prefetch'> &
  Omit<AnchorHTMLAttributes<HTMLAnchorElement>, keyof LinkProps> & {
    /** Fetched at once, with the code of its page: for one of many that lead to the same. */
    ahead?: boolean;
  };

/**
 * A way to another page. It is fetched when the pointer or the focus comes to it: of a list of them nearly all are never gone, and
 * fetching each takes the time of what is being opened.
 */
export function PageLink({ ahead = false, ...props }: PageLinkProps) {
  const router = useRouter();
  const near = () => router.prefetch(String(props.href));
  return <Link {...props} prefetch={ahead} onPointerEnter={near} onFocus={near} />;
}
