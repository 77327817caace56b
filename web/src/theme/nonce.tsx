'use client';

import { createContext, useContext } from 'react';

const Nonce = createContext<string | undefined>(undefined);
/** What styles made in the page have to carry to be let in. */
export const NonceProvider = Nonce;
export const useNonce = (): string | undefined => useContext(Nonce);
