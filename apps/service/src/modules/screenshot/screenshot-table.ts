import { EntitySchema } from 'typeorm';
import { sealedColumns, type SealedRow } from '../../db/sealed-anew.ts';

/** A picture that was put into the records of its session, sealed. */
export const ScreenshotEntity = new EntitySchema<SealedRow>({
  name: 'screenshot',
  columns: sealedColumns,
  indices: [{ name: 'screenshot_of_session', columns: ['sessionId'] }],
});
