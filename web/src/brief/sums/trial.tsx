/** What is being typed, weighed before it is saved: its sums stand beside the picture at once. */
import { createContext, type ReactNode, useContext, useEffect, useMemo, useState } from "react";
import { client, got, type Trial } from "../../api/client";
import { useOpenFabric } from "../../app/open";

interface Trying {
	trial: Trial | null;
	set: (trial: Trial | null) => void;
}

const Context = createContext<Trying>({ trial: null, set: () => undefined });

export function TrialRoom({ children }: { children: ReactNode }) {
	const [trial, set] = useState<Trial | null>(null);
	const room = useMemo(() => ({ trial, set }), [trial]);
	return <Context value={room}>{children}</Context>;
}

export const useTrial = () => useContext(Context).trial;
export const useSetTrial = () => useContext(Context).set;

/** Try an edit while it is typed; nothing when it is what the draft has. Returns what is wrong with it, in words. */
export function useTrying(path: string, value: unknown, active: boolean): string {
	const fabric = useOpenFabric();
	const { set } = useContext(Context);
	const [wrong, setWrong] = useState("");
	const said = JSON.stringify(value ?? null);
	useEffect(() => {
		if (!active) {
			set(null);
			setWrong("");
			return;
		}
		let over = false;
		const wait = setTimeout(async () => {
			try {
				const found = await got(
					client.POST("/api/v1/fabrics/{name}/try", {
						params: { path: { name: fabric.name } },
						body: { edits: [[path, JSON.parse(said) as never]] },
					}),
				);
				if (over) return;
				set(found);
				setWrong(found.faults[0]?.message ?? "");
			} catch {
				if (!over) set(null);
			}
		}, 70);
		return () => {
			over = true;
			clearTimeout(wait);
		};
	}, [fabric.name, path, said, active, set]);
	useEffect(() => () => set(null), [set]);
	return wrong;
}
