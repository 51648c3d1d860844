import { consentHolderOf, type ReportPart, type ReportParts, type SystemReport, type WhyMissing } from '@porch/core';
import { AppError, randomId, readReportPart, systemReportChannel, type SystemReportMessage } from '@porch/wire';
import type { LiveConnection } from '../live/live-connection.ts';
import { OpenAnswers } from '../open-answers.ts';
import { SealedLine } from '../sealed-line.ts';
import { RefusedThere } from '../refused-there.ts';

/** The customer's side said no, in its own words. */
export class ReportRefused extends RefusedThere {}

/** What has come of a report so far. */
export interface ComingReport {
  readonly id: string;
  readonly parts: ReportParts;
  readonly missing: Partial<Record<ReportPart, WhyMissing>>;
}

/** The technician's side of system reports: has one read, and hands on each part as it comes. */
export class TechnicianReports {
  readonly #connection: LiveConnection;
  readonly #line: SealedLine<SystemReportMessage>;
  readonly #off: () => void;
  readonly #answers: OpenAnswers;
  readonly #coming = new Map<string, { report: ComingReport; tell: (report: ComingReport) => void }>();

  constructor(connection: LiveConnection) {
    this.#connection = connection;
    this.#answers = new OpenAnswers(connection.clock, (id) => this.#coming.delete(id));
    this.#line = new SealedLine(connection, systemReportChannel);
    this.#off = this.#line.listen(
      ({ message }) => this.#take(message),
      (from) => from.id === connection.state.holderId,
    );
  }

  /**
   * Resolves once all parts are there, or it is said why they are not. Rejects with ReportRefused when the customer's side
   * says no, with an AppError when nobody answers.
   */
  read(tell: (report: ComingReport) => void): Promise<SystemReport & { readonly id: string }> {
    const id = randomId(this.#connection.random);
    this.#coming.set(id, { report: { id, parts: {}, missing: {} }, tell });
    return this.#answers.wait(id, () => this.#send({ type: 'read', reportId: id }));
  }

  close(): void {
    this.#off();
    for (const id of this.#coming.keys()) this.#send({ type: 'stop', reportId: id });
    this.#answers.close();
  }

  #send(message: SystemReportMessage): boolean {
    const holder = consentHolderOf(this.#connection.state);
    if (!holder) throw new AppError('NO_CONSENT_HOLDER');
    return this.#line.send(holder.seat, message);
  }

  #take(message: SystemReportMessage): void {
    const { reportId: id } = message;
    const coming = this.#coming.get(id);
    if (!coming) return;
    this.#answers.waitOn(id);
    if (message.type === 'refused') this.#answers.reject(id, new ReportRefused(message.why));
    else if (message.type === 'part') this.#add(id, message.part, readReportPart(message.part, message.value));
    else if (message.type === 'missing') this.#miss(id, message.part, message.why);
    else if (message.type === 'done') {
      const { parts, missing } = coming.report;
      const takenAtMs = this.#connection.clock.wallMs();
      this.#answers.resolve(id, { id, version: 1, takenAtMs, parts, missing } satisfies SystemReport & { id: string });
    }
  }

  /** What is no such part, whoever sent it, is said to be missing: nothing else of it is looked at. */
  #add(id: string, part: ReportPart, value: ReportParts[ReportPart]): void {
    const coming = this.#coming.get(id);
    if (!coming) return;
    if (!value) return this.#miss(id, part, 'failed');
    coming.report = { ...coming.report, parts: { ...coming.report.parts, [part]: value } };
    coming.tell(coming.report);
  }

  #miss(id: string, part: ReportPart, why: WhyMissing): void {
    const coming = this.#coming.get(id);
    if (!coming) return;
    coming.report = { ...coming.report, missing: { ...coming.report.missing, [part]: why } };
    coming.tell(coming.report);
  }
}
