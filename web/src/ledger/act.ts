/** Changes of pools: every one is told when it is refused, and everything about pools is read again when it is done. */
import { useMutation, useQueryClient } from "@tanstack/react-query";
import type { Failure } from "../api/client";
import { useNotices } from "../ui/notices";

/** A change of the ledger; `done` says in words what came of it. */
export function usePoolAct<Asked, Answer>(
	send: (asked: Asked) => Promise<Answer>,
	done?: (answer: Answer, asked: Asked) => string,
) {
	const queries = useQueryClient();
	const { tell } = useNotices();
	return useMutation<Answer, Failure, Asked>({
		mutationFn: send,
		onSuccess: (answer, asked) => {
			void queries.invalidateQueries({ queryKey: ["pools"] });
			void queries.invalidateQueries({ queryKey: ["fabric"] });
			const words = done?.(answer, asked);
			if (words) tell({ tone: "done", text: words });
		},
		onError: (failure) => tell({ tone: "wrong", text: failure.message }),
	});
}
