import { useToast } from 'primevue/usetoast';
import { ApiError } from './api.ts';

/** Tells what could not be done, in the server's words where it has some. */
export function useTell(): (what: string, problem: unknown) => void {
  const toast = useToast();
  return (what, problem) => {
    const detail = problem instanceof ApiError ? problem.message : String(problem);
    toast.add({ severity: 'error', summary: what, detail, life: 8000 });
  };
}
