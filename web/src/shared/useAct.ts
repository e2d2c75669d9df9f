import { useQueryClient } from "@tanstack/react-query";
import { toast } from "sonner";
import { affected } from "../api/affected";
import { ProblemError } from "../api/client";

/**
 * Change data, show errors, and refetch what may have changed. `done`: a message, or what to do then. Returns the response's
 * data, or undefined where it was refused.
 */
export function useAct() {
  const queryClient = useQueryClient();
  return async <T>(
    act: () => Promise<{ data?: T; response?: Response }>,
    done?: string | ((data: T) => void),
  ): Promise<T | undefined> => {
    try {
      const answer = await act();
      await queryClient.invalidateQueries({ predicate: affected(answer.response?.url ?? "/api/sites") });
      if (typeof done === "string") toast(done);
      else done?.(answer.data as T);
      return answer.data;
    } catch (error) {
      if (!(error instanceof ProblemError)) throw error;
      toast.error(`${error.problem.detail} ${error.problem.remedy}`);
      return undefined;
    }
  };
}
