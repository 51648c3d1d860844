/** How many consoles each technician has open, as far as this process serves them. */
export class OpenConsoles {
  readonly #count = new Map<string, number>();

  /** Hands back what says that the console is gone. */
  opened(technicianId: string): () => void {
    this.#count.set(technicianId, (this.#count.get(technicianId) ?? 0) + 1);
    return () => this.#count.set(technicianId, (this.#count.get(technicianId) ?? 1) - 1);
  }

  has = (technicianId: string): boolean => (this.#count.get(technicianId) ?? 0) > 0;
}
