import x11 from 'x11';

/** What the root window tells us: its own size, and everything about its children, in the order in which it happens. */
export const ROOT_EVENTS = (x11.eventMask['StructureNotify'] ?? 0) | (x11.eventMask['SubstructureNotify'] ?? 0);
