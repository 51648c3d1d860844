import type { Language } from '@porch/core';
import { z } from 'zod';

/** The same words in every language; over REST under the tags of BCP 47 (see `iso-form.ts`). */
export const InEveryLanguage = z.object({ en: z.string(), no: z.string(), de: z.string() } satisfies Record<
  Language,
  z.ZodString
>);
