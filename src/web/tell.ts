import { useToast } from 'primevue/usetoast';

/** Tells what could not be done, in the server's words where it has some. */
export function useTell(): (what: string, problem: unknown) => void {
  const toast = useToast();
  return (what, problem) => {
    const detail = problem instanceof Error ? problem.message : String(problem);
    toast.add({ severity: 'error', summary: what, detail, life: 8000 });
  };
}

/** Says that something was done, where nothing on the screen shows it. */
export function useSay(): (what: string) => void {
  const toast = useToast();
  return (what) => toast.add({ severity: 'success', summary: what, life: 2500 });
}
