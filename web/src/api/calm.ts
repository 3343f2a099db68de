/** Looking again at what changes often: at once the first time, then when a while has passed and the last look is through. */
import type { QueryClient, QueryKey } from "@tanstack/react-query";

const WHILE = 300;
const waiting = new Map<string, ReturnType<typeof setTimeout>>();
const looked = new Map<string, number>();

export function lookAgain(queries: QueryClient, queryKey: QueryKey): void {
	const name = JSON.stringify(queryKey);
	if (waiting.has(name)) return;
	const due = Math.max(0, (looked.get(name) ?? 0) + WHILE - Date.now());
	waiting.set(name, setTimeout(look, due));

	function look() {
		if (queries.isFetching({ queryKey }) > 0) {
			waiting.set(name, setTimeout(look, WHILE / 3));
			return;
		}
		waiting.delete(name);
		looked.set(name, Date.now());
		void queries.invalidateQueries({ queryKey });
	}
}
