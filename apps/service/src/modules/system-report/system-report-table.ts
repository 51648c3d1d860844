import { EntitySchema } from 'typeorm';
import { sealedColumns, type SealedRow } from '../../db/sealed-anew.ts';

/** What a computer said of itself, in the records of its session; sealed. */
export const SystemReportEntity = new EntitySchema<SealedRow>({
  name: 'system_report',
  columns: sealedColumns,
  indices: [
    { name: 'system_report_of', columns: ['sessionId', 'keptAt'] },
    { name: 'system_report_sealed_with', columns: ['sealedWith'] },
  ],
});
