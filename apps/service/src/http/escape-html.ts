/** Text as it stands in HTML, between tags or in quotes: nothing in it is markup. */
export const escapeHtml = (text: string): string => text.replace(/[&<>"']/g, (c) => `&#${c.charCodeAt(0)};`);
