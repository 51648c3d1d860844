import { Preferences } from '@porch/core';
import { CallerQuestion, CallersFound, CallerView, SessionTelephone } from '../caller-schemas.ts';
import * as knowledge from '../knowledge-schemas.ts';
import { named } from '../iso-form.ts';
import { JoinBody } from '../join-body.ts';
import { LedgerView } from '../ledger-view.ts';
import * as rest from '../rest-schemas.ts';
import { KeepScreenshotBody, KeptScreenshot } from '../screenshot-schemas.ts';
import { TicketView } from '../ticket-view.ts';
import * as careful from '../second-yes-schemas.ts';
import * as door from '../door-schemas.ts';
import * as rights from '../rights-schemas.ts';
import * as runbook from '../runbook-schemas.ts';
import * as reports from '../system-report-schemas.ts';
import { SessionPage } from '../session-search.ts';

const carefulNames = { CarefulAct: careful.CarefulActView, SecondYes: careful.SecondYesBody };
const reportNames = {
  SystemReportToKeep: reports.KeepSystemReportBody,
  KeptSystemReport: reports.KeptSystemReport,
  EarlierSystemReport: reports.EarlierSystemReport,
  FoundEarlierSystemReport: reports.FoundEarlierReport,
};
const runbookNames = {
  RunbookActionSummary: runbook.RunbookActionView,
  RunbookAction: runbook.RunbookActionWhole,
  NewRunbookAction: runbook.NewRunbookAction,
  PackFile: runbook.PackFile,
  PackFiles: runbook.PackFiles,
  ExportedPack: runbook.ExportedPack,
  ImportedPack: runbook.ImportedPack,
  ChosenAction: runbook.ChosenAction,
  ActionToRun: runbook.ActionToRun,
  RightsLeaveToGive: rights.RightsLeaveBody,
  RightsLeaveGiven: rights.RightsLeaveGiven,
};
const knowledgeNames = {
  EarlierSession: knowledge.EarlierSession,
  EarlierSessions: knowledge.LookedBack,
  KnowledgeNoteSummary: knowledge.KnowledgeNoteView,
  KnowledgeNote: knowledge.KnowledgeNote,
  NewKnowledgeNote: knowledge.NewKnowledgeNote,
  KnowledgeNoteFile: knowledge.KnowledgeNoteFile,
  KnowledgeNoteFiles: knowledge.KnowledgeNoteFiles,
  ExportedKnowledgeNotes: knowledge.ExportedKnowledgeNotes,
  ImportedKnowledgeNote: knowledge.ImportedKnowledgeNote,
  FoundKnowledgeNotes: knowledge.FoundKnowledge,
};

/** Gives everything that REST takes and gives the name under which documents of the API show it. */
export function nameSchemas(): void {
  for (const [name, schema] of Object.entries({
    Technician: rest.TechnicianView,
    Preferences,
    NewSignIn: rest.SignInBody,
    SignedIn: rest.SignedIn,
    SignIn: rest.SignInView,
    SignInsToEnd: rest.EndSignInsBody,
    Ticket: TicketView,
    Code: rest.CodeView,
    Invitation: rest.InvitationView,
    NewInvitation: rest.InviteBody,
    InvitationWithLink: rest.Invited,
    MessagePreview: rest.MessagePreview,
    Session: rest.SessionView,
    SessionPage,
    NewSession: rest.StartBody,
    StartedSession: rest.Started,
    Ledger: LedgerView,
    ConnectionPass: rest.ConnectionPass,
    Erasure: rest.EraseBody,
    QueueMessage: rest.QueueMessage,
    QueueEntry: rest.QueueEntryView,
    WaitingPerson: rest.WaitingView,
    KnownFault: rest.KnownFaultView,
    NewKnownFault: rest.KnownFaultBody,
    OwnState: rest.MyState,
    OwnStateToSet: rest.MyStateBody,
    Device: rest.DeviceView,
    DeviceVisit: rest.DeviceVisitView,
    DeviceToKeep: rest.KeepDeviceBody,
    KeptDevice: rest.KeptDevice,
    Handover: rest.HandoverView,
    Booking: rest.BookingView,
    NewBooking: rest.BookingBody,
    NewBookingTime: rest.MoveBookingBody,
    BookingCancellation: rest.CancelBookingBody,
    Porch: rest.PorchView,
    CallerQuestion,
    Caller: CallerView,
    CallersFound,
    SessionTelephone,
    ...knowledgeNames,
    ...runbookNames,
    ...reportNames,
    ...carefulNames,
    DoorSession: door.DoorView,
    WayIn: JoinBody,
    Joined: door.Joined,
    HelpRequest: rest.RequestBody,
    Estimate: rest.EstimateView,
    HelpRequestStatus: rest.EntryStatus,
    CustomerCopy: rest.ReceiptView,
    HelpRequestMessage: rest.SayBody,
    Desk: rest.DeskView,
    NewScreenshot: KeepScreenshotBody,
    Screenshot: KeptScreenshot,
  }))
    named(name, schema);
}
