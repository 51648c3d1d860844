import type { Topic } from '@porch/core';
import { EntitySchema } from 'typeorm';

export interface SettingRow {
  name: string;
  /** Empty: the whole desk's. */
  team: string;
  version: number;
  since: Date;
  setBy: string;
  /** As JSON; null: given back. */
  value: unknown;
}
export const SettingEntity = new EntitySchema<SettingRow>({
  name: 'setting',
  columns: {
    name: { type: 'text', primary: true },
    team: { type: 'text', primary: true },
    version: { type: 'int', primary: true },
    since: { type: 'timestamptz' },
    setBy: { type: 'text', name: 'set_by' },
    value: { type: 'jsonb', nullable: true },
  },
});

export interface TopicRow {
  topic: string;
  /** They are listed in this order. */
  place: number;
  words: Topic['words'];
  team: string | null;
  skills: string[];
}
export const TopicEntity = new EntitySchema<TopicRow>({
  name: 'topic',
  columns: {
    topic: { type: 'text', primary: true },
    place: { type: 'int' },
    words: { type: 'jsonb' },
    team: { type: 'text', nullable: true },
    skills: { type: 'text', array: true },
  },
});

export interface TeamRow {
  name: string;
}
export const TeamEntity = new EntitySchema<TeamRow>({
  name: 'team',
  columns: { name: { type: 'text', primary: true } },
});
