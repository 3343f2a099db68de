/** Where one is on a screen, kept in the address so that it opens again there. */
import { useCallback, useEffect, useRef, useState } from "react";
import { useLocation } from "react-router";

type Place<Key extends string> = Partial<Record<Key, string>>;

/**
 * The values of some search parameters, and a way to change them at once. Changes are written to the address without a
 * navigation, since keys come faster than navigations settle; a real navigation sets the place anew.
 */
export function usePlace<Key extends string>(...keys: Key[]): [Place<Key>, (next: Place<Key>) => void] {
	const location = useLocation();
	const [place, setPlace] = useState(() => read(location.search, keys));
	// The navigation during which the place was changed: one that takes its time does not undo what was done meanwhile.
	const written = useRef<string | undefined>(undefined);
	// biome-ignore lint/correctness/useExhaustiveDependencies: each navigation has a key of its own; the names never change
	useEffect(() => {
		if (written.current === location.key) return;
		written.current = undefined;
		setPlace(read(location.search, keys));
	}, [location.key, location.search]);
	const go = useCallback((next: Place<Key>) => {
		setPlace(next);
		written.current = (history.state as { key?: string } | null)?.key;
		const said = Object.entries<string | undefined>(next).filter((pair): pair is [string, string] =>
			Boolean(pair[1]),
		);
		const words = new URLSearchParams(said).toString();
		history.replaceState(history.state, "", `${window.location.pathname}${words ? `?${words}` : ""}`);
	}, []);
	return [place, go];
}

function read<Key extends string>(search: string, keys: Key[]): Place<Key> {
	const words = new URLSearchParams(search);
	const place: Place<Key> = {};
	for (const key of keys) place[key] = words.get(key) ?? undefined;
	return place;
}
