import { dayBegins } from '@porch/client';
import { SessionSearch } from '@porch/wire';
import { computed, onScopeDispose } from 'vue';
import { useRoute, useRouter, type LocationQueryRaw } from 'vue-router';

/** Nobody types a letter more slowly; between them nothing is asked. */
const TYPING_MS = 200;
/** A day as its field has it, or what the list is asked by. */
export type Filter = 'words' | 'outcome' | 'phase' | 'technician' | 'permission' | 'files' | 'fromDay' | 'toDay';

/** What is asked for, kept in the address: so a link, a reload and the way back lead to the same. */
export function useSessionFilters(onTrouble: (error: unknown) => void) {
  const [route, router] = [useRoute(), useRouter()];
  let typing: ReturnType<typeof setTimeout> | undefined;
  onScopeDispose(() => clearTimeout(typing));

  const filter = (name: Filter): string => {
    const value = route.query[name];
    return typeof value === 'string' ? value : '';
  };
  const isFiltered = computed(() => Object.values(route.query).some((value) => value));

  function goTo(query: LocationQueryRaw): void {
    router.replace({ query }).catch(onTrouble);
  }
  function setFilter(name: Filter, value: string): void {
    clearTimeout(typing);
    const change = () => goTo({ ...route.query, [name]: value || undefined });
    if (name === 'words') typing = setTimeout(change, TYPING_MS);
    else change();
  }
  const clear = () => goTo({});

  function search() {
    const { fromDay, toDay, ...asIs } = route.query;
    const parsed = SessionSearch.partial().safeParse({
      ...asIs,
      ...(typeof fromDay === 'string' ? { from: dayBegins(fromDay) } : {}),
      ...(typeof toDay === 'string' ? { to: dayBegins(toDay, 1) } : {}),
    });
    // An address that somebody changed by hand asks for what of it can be asked.
    return parsed.success ? parsed.data : { words: filter('words').slice(0, 200) };
  }

  return { query: () => route.query, search, isFiltered, filter, setFilter, clear };
}
