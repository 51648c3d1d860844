import { EntitySchema } from 'typeorm';
import type { Technician } from './technician.ts';

/** Their password's hash is read for signing in alone. */
export interface TechnicianRow extends Technician {
  passwordHash: string;
}
export const TechnicianEntity = new EntitySchema<TechnicianRow>({
  name: 'technician',
  columns: {
    id: { type: 'text', primary: true },
    name: { type: 'text' },
    email: { type: 'text', unique: true },
    team: { type: 'text' },
    role: { type: 'text' },
    languages: { type: 'text', array: true },
    topics: { type: 'text', array: true },
    skills: { type: 'text', array: true },
    passwordHash: { type: 'text', name: 'password_hash', select: false },
    disabledAt: { type: 'timestamptz', name: 'disabled_at', nullable: true },
  },
});

export interface SignInRow {
  tokenHash: Buffer;
  /** What it is called when it is listed and ended; no secret. */
  id: string;
  begunAt: Date;
  address: string;
  /** What the browser or the program says it is. */
  program: string;
  technicianId: string;
  expiresAt: Date;
}
export const SignInEntity = new EntitySchema<SignInRow>({
  name: 'sign_in',
  columns: {
    tokenHash: { type: 'bytea', primary: true, name: 'token_hash' },
    id: { type: 'uuid' },
    begunAt: { type: 'timestamptz', name: 'begun_at' },
    address: { type: 'text' },
    program: { type: 'text' },
    technicianId: { type: 'text', name: 'technician_id' },
    expiresAt: { type: 'timestamptz', name: 'expires_at' },
  },
  indices: [{ name: 'sign_in_technician', columns: ['technicianId'] }],
});

export interface PreferencesRow {
  technicianId: string;
  preferences: unknown;
  at: Date;
}
export const PreferencesEntity = new EntitySchema<PreferencesRow>({
  name: 'technician_preferences',
  columns: {
    technicianId: { type: 'text', primary: true, name: 'technician_id' },
    preferences: { type: 'jsonb' },
    at: { type: 'timestamptz' },
  },
});

export interface AttemptRow {
  bucket: string;
  windowStart: Date;
  count: number;
}
export const AttemptEntity = new EntitySchema<AttemptRow>({
  name: 'attempt',
  columns: {
    bucket: { type: 'text', primary: true },
    windowStart: { type: 'timestamptz', name: 'window_start' },
    count: { type: 'int' },
  },
});
