/** A name for something new, unlike any other of its asset. */
export const newId = (): string => crypto.randomUUID().slice(0, 8);
