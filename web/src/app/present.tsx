/** Who else has this fabric open, and where. */
import { useQuery } from "@tanstack/react-query";
import { createContext, type ReactNode, useContext, useEffect, useMemo, useState } from "react";
import { type Here, useBeingAt } from "../api/events";
import { initials } from "../door/me";

const At = createContext<{ setWord: (path: string) => void }>({ setWord: () => undefined });

/** Says where one is: at a step, and at the word that is open there. */
export function Present({ fabric, step, children }: { fabric: string; step: string; children: ReactNode }) {
	const [word, setWord] = useState("");
	useBeingAt(fabric, word || step);
	return <At value={useMemo(() => ({ setWord }), [])}>{children}</At>;
}

export const useWord = () => useContext(At).setWord;

export function useOthers(fabric: string): Here[] {
	const { data } = useQuery<Here[]>({ queryKey: ["present", fabric], enabled: false, initialData: [] });
	return data;
}

/** Says at which row of a list one is, and tells who is at which others. */
export function useRows(fabric: string, kind: string, chosen: string): ReadonlyMap<string, string> {
	const setWord = useWord();
	useEffect(() => {
		setWord(chosen && `${kind} ${chosen}`);
		return () => setWord("");
	}, [kind, chosen, setWord]);
	const others = useOthers(fabric);
	return useMemo(() => {
		const at = others.filter((one) => one.place.startsWith(`${kind} `));
		return new Map(at.map((one) => [one.place.slice(kind.length + 1), one.called]));
	}, [kind, others]);
}

/** The others, by their initials; a mark on each says that they are there, and its title where. */
export function Others({ fabric }: { fabric: string }) {
	const others = useOthers(fabric);
	if (!others.length) return null;
	return (
		<ul aria-label="Also here" className="flex gap-1 pb-3">
			{others.slice(0, 5).map((one) => (
				<li
					key={one.name}
					title={`${one.called} is here too, at ${one.place || "the fabric"}`}
					className="flex h-6 min-w-6 items-center justify-center rounded-full border-2 border-weld bg-raised px-0.5 text-[10.5px] font-bold text-weld-ink"
				>
					<span aria-hidden="true">{initials(one.called)}</span>
					<span className="sr-only">{`${one.called}, at ${one.place || "the fabric"}`}</span>
				</li>
			))}
			{others.length > 5 && <li className="self-center text-[11.8px] text-soft">+{others.length - 5}</li>}
		</ul>
	);
}
