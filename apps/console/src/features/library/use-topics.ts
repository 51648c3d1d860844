import { ref } from 'vue';
import { useDesk } from '../../desk.ts';

/** What the desk's topics are called, once they were read. */
export function useTopics() {
  const { rest } = useDesk();
  const topics = ref<string[]>([]);
  const readTopics = async () => void (topics.value = (await rest.desk()).topics.map(({ topic }) => topic));
  return { topics, readTopics };
}
