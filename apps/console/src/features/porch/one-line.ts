/** What is known of something, in one line; what is not known takes no room. */
export const oneLine = (...parts: readonly (string | undefined)[]): string => parts.filter(Boolean).join(' · ');
