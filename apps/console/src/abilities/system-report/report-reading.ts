import { TechnicianReports, type ComingReport } from '@porch/client';
import type { SystemReport } from '@porch/core';
import { readSystemReport } from '@porch/wire';
import { ref, shallowRef } from 'vue';
import { inWordsOr } from '../../in-words.ts';
import { w } from '../../words/index.ts';
import type { ConsoleSession } from '../console-ability.ts';

/** Reads system reports in one session, keeps each with it, and knows the one of before. */
export class ReportReading {
  readonly coming = shallowRef<ComingReport>();
  readonly earlier = shallowRef<SystemReport>();
  readonly isReading = ref(false);
  readonly isKept = ref(false);
  readonly trouble = ref('');
  readonly #session: ConsoleSession;
  readonly #technician: TechnicianReports;
  /** Complete, and not said by the ledger yet: only then it can be kept. */
  #waiting: (SystemReport & { readonly id: string }) | undefined;

  constructor(session: ConsoleSession) {
    this.#session = session;
    this.#technician = new TechnicianReports(session.connection);
  }

  /** As soon as it is allowed; what was read before this page was loaded again is shown, and nobody is told twice. */
  async begin(): Promise<void> {
    const { connection } = this.#session;
    const isMine = Object.values(this.#slice).some(({ readById }) => readById === connection.participantId);
    await (isMine ? this.#showKept() : this.read());
  }

  async read(): Promise<void> {
    if (this.isReading.value) return;
    [this.isReading.value, this.isKept.value, this.trouble.value] = [true, false, ''];
    try {
      // What it was before is there as soon as the new one is.
      const looking = this.#lookBack();
      const reading = this.#technician.read((report) => (this.coming.value = report));
      [, this.#waiting] = await Promise.all([looking, reading]);
      await this.keep();
    } catch (error) {
      this.trouble.value = inWordsOr(error, w.value.systemReport.refused);
    } finally {
      this.isReading.value = false;
    }
  }

  /** Puts what was read with the session, once the ledger says that it was. */
  async keep(): Promise<void> {
    const report = this.#waiting;
    if (!report || !Object.hasOwn(this.#slice, report.id)) return;
    this.#waiting = undefined;
    const { id, ...value } = report;
    await this.#session.rest.keepSystemReport(this.#session.id, id, value);
    this.isKept.value = true;
  }

  /** What is known so far, as a report. */
  get report(): SystemReport {
    const { parts = {}, missing = {} } = this.coming.value ?? {};
    return { version: 1, takenAtMs: this.#session.connection.clock.wallMs(), parts, missing };
  }

  close(): void {
    this.#technician.close();
  }

  get #slice() {
    return this.#session.state.value.slices['system-report'];
  }

  async #lookBack(): Promise<void> {
    const { rest, id } = this.#session;
    this.earlier.value = readSystemReport((await rest.earlierSystemReport(id))?.report);
  }

  async #showKept(): Promise<void> {
    const { rest, id } = this.#session;
    const last = (await rest.systemReports(id)).at(-1);
    const report = last && readSystemReport(await rest.systemReport(id, last.reportId));
    if (!report || this.coming.value) return;
    this.coming.value = { id: last.reportId, parts: report.parts, missing: report.missing };
    this.isKept.value = true;
    await this.#lookBack();
  }
}
