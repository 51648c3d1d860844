import { TechnicianPrints, type PrinterThere, type PrintoutHere } from '@porch/client';
import { computed, shallowRef } from 'vue';
import { defineTool } from '../console-ability.ts';

/** What is printed at their computer, as it arrives. */
export const printsTool = defineTool({
  name: 'prints',
  begin(session) {
    const printer = shallowRef<PrinterThere>();
    const documents = shallowRef<readonly PrintoutHere[]>([]);
    const read = () => {
      printer.value = technician.printer;
      documents.value = technician.documents;
    };
    const technician = new TechnicianPrints(session.connection, read);
    read();
    return {
      ...{ technician, printer, documents },
      mayTake: computed(() => (void session.told.value, session.may('take-prints') && session.isHolderThere.value)),
      ask: () => session.ask('take-prints'),
      close: () => technician.close(),
    };
  },
});
