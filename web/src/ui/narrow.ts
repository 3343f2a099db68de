/** Whether the window is narrow, as on a phone held at the rack. */
import { useSyncExternalStore } from "react";

export function useNarrow(below: number): boolean {
	return useSyncExternalStore(
		(changed) => {
			addEventListener("resize", changed);
			return () => removeEventListener("resize", changed);
		},
		() => window.innerWidth < below,
	);
}
