/* Why something is not done here, as several abilities say it to technicians: each language has these words. */
export const ASKING = 'a question is open at their computer';
export const NEEDS_LEAVE = 'a device with this label needs leave for it';
export const NEVER_HERE = 'the desk never does this on a device with this label';
