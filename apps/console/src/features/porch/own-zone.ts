/** Where this computer is, as times are told on it. */
export const ownZone = Intl.DateTimeFormat().resolvedOptions().timeZone;
