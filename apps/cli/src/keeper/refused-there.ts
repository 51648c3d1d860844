/** Doorstep said no, in its own words. */
export class RefusedThere extends Error {}
