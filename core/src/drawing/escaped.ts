/** Words as they stand in XML and HTML, in texts and in attributes of either quotes. */
export const escaped = (words: string): string => words.replace(/[<>&"']/g, (c) => `&#${c.charCodeAt(0)};`);
