import { z } from 'zod';

/** A moment: milliseconds since 1970 within our programs, ISO 8601 on its way over REST (see `iso-form.ts`). */
export const Moment = z.number();
