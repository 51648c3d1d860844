import { keptCheckWords } from './check-words/kept.ts';
import { keptFiles } from './files/kept.ts';
import { keptInput } from './input/kept.ts';
import { keptPicture } from './picture/kept.ts';
import { keptScreenshot } from './screenshot/kept.ts';
import { keptStanding } from './standing/kept.ts';

/** What the keeper of a session has going for the command line. */
export const keptAbilities = [keptFiles, keptPicture, keptInput, keptCheckWords, keptStanding, keptScreenshot] as const;
