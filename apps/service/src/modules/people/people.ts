import type { DataSource } from 'typeorm';
import { TechnicianEntity } from './people-tables.ts';
import type { Technician, Technicians } from './technician.ts';

/**
 * Everybody who works here, by id. Few, and asked for at every turn, so they are kept in memory; read again every few
 * seconds, so that whoever is added, changed or forbidden at the terminal is so without a restart.
 */
export class People {
  readonly #records: DataSource;
  readonly #byId = new Map<string, Technician>();

  constructor(records: DataSource) {
    this.#records = records;
  }

  get byId(): Technicians {
    return this.#byId;
  }

  /** True when anything changed. */
  async read(): Promise<boolean> {
    const rows = await this.#records.getRepository(TechnicianEntity).find({ order: { name: 'ASC' } });
    const before = [...this.#byId.values()];
    const known = new Map(before.map((person) => [person.id, person]));
    // Whoever is as they were is the same.
    const now = rows.map((row) => {
      const old = known.get(row.id);
      return old && JSON.stringify(old) === JSON.stringify(row) ? old : row;
    });
    // The order in which they are listed is that of their names, whenever they came.
    this.#byId.clear();
    for (const person of now) this.#byId.set(person.id, person);
    return now.length !== before.length || now.some((person, at) => person !== before[at]);
  }
}
