import { toast } from 'sonner';

/** Does something on the server; what goes wrong is said. */
export async function attempt(work: () => Promise<unknown>): Promise<void> {
  try {
    await work();
  } catch (error) {
    toast.error((error as Error).message);
  }
}
