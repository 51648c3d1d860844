/** What somebody is called for short. */
export const firstName = (name: string): string => name.split(' ')[0] ?? name;
