/** What changes elsewhere, as the server tells it: one stream a page, which is closed while nobody looks. */
import { type QueryClient, useQueryClient } from "@tanstack/react-query";
import { useEffect } from "react";
import { lookAgain } from "./calm";
import { client, type Fabric, got } from "./client";
import type { components } from "./schema";

export type Here = components["schemas"]["Here"];

/** After so long out of sight a page listens no more, and costs nothing; it catches up when it is looked at again. */
const OUT_OF_SIGHT = 60_000;

interface Standing {
	stream: string;
	fabrics: Record<string, number>;
	pools: number;
	catalogue: number;
}

let stream = "";
let where = { fabric: "", place: "" };
let known: Standing | null = null;
/** How often it was heard who is here: an answer to a question from before is older than what was heard since. */
let told = 0;

/** Listen as long as the page is open. */
export function useEvents() {
	const queries = useQueryClient();
	useEffect(() => {
		if (!("EventSource" in globalThis)) return;
		let source: EventSource | null = null;
		let hidden: ReturnType<typeof setTimeout> | undefined;
		const open = () => {
			clearTimeout(hidden);
			if (source && source.readyState !== EventSource.CLOSED) return;
			source = new EventSource("/api/v1/events");
			for (const kind of [
				"standing",
				"fabric",
				"pools",
				"catalogue",
				"people",
				"present",
				"job",
				"cables",
				"review",
				"rehearsal",
				"staging",
				"signedout",
			])
				source.addEventListener(kind, (event) => heard(queries, kind, (event as MessageEvent<string>).data));
		};
		const close = () => {
			source?.close();
			source = null;
		};
		const onSight = () => {
			if (document.visibilityState === "visible") open();
			else hidden = setTimeout(close, OUT_OF_SIGHT);
		};
		open();
		document.addEventListener("visibilitychange", onSight);
		return () => {
			document.removeEventListener("visibilitychange", onSight);
			clearTimeout(hidden);
			close();
			stream = "";
			known = null;
		};
	}, [queries]);
}

/** What to look at again for what was heard. */
export function heard(queries: QueryClient, kind: string, data: string): void {
	const again = (...key: string[]) => void queries.invalidateQueries({ queryKey: key });
	switch (kind) {
		case "standing": {
			const now = JSON.parse(data) as Standing;
			stream = now.stream;
			for (const [name, version] of Object.entries(now.fabrics)) {
				const shown = queries.getQueryData<Fabric>(["fabric", name]);
				if (shown && shown.version < version) queries.setQueryData(["version", name], { version });
			}
			if (known && JSON.stringify(known.fabrics) !== JSON.stringify(now.fabrics)) again("fabrics");
			if (known && known.pools !== now.pools) again("pools");
			if (known && known.catalogue !== now.catalogue) again("catalogue");
			known = now;
			void say(queries);
			break;
		}
		case "fabric":
			again("version", data);
			again("fabrics");
			again("pools");
			break;
		case "pools":
			again("pools");
			break;
		case "catalogue":
			for (const key of ["catalogue", "office", "fabric"]) again(key);
			break;
		case "people":
			for (const key of ["session", "people", "me"]) again(key);
			break;
		case "job":
			again("jobs");
			break;
		case "cables":
			for (const key of ["work", "neighbours", "cables"]) again("fabric", data, key);
			break;
		case "rehearsal":
			// What was rehearsed may be what sealing waits for.
			for (const key of ["rehearsals", "review"]) again("fabric", data, key);
			break;
		case "staging":
			// Who knocks is of no fabric yet, so that whichever is open looks again.
			if (data) lookAgain(queries, ["fabric", data, "staging"]);
			else
				for (const { queryKey } of queries.getQueryCache().findAll({
					predicate: (one) => one.queryKey[2] === "staging" && one.queryKey[3] === "knocks",
				}))
					lookAgain(queries, queryKey);
			break;
		case "review":
			for (const key of ["review", "editions"]) again("fabric", data, key);
			again("waiting");
			break;
		case "present": {
			const { fabric, here } = JSON.parse(data) as { fabric: string; here: Here[] };
			told += 1;
			queries.setQueryData(["present", fabric], here);
			break;
		}
		case "signedout":
			dispatchEvent(new Event("signedout"));
	}
}

/** Milliseconds after which one says again where one is, when it could not be said. */
const SAID_AGAIN = 2000;

/** Say where one is now, if anybody listens for it. */
async function say(queries: QueryClient): Promise<void> {
	const { fabric, place } = where;
	if (!stream || !fabric) return;
	const before = told;
	try {
		const here = await got(
			client.POST("/api/v1/fabrics/{name}/present", {
				params: { path: { name: fabric } },
				body: { stream, place },
			}),
		);
		if (told === before) queries.setQueryData(["present", fabric], here);
	} catch {
		// Where one is matters to nobody as much as that the page goes on; it is said again when the server has time.
		setTimeout(() => {
			if (where.fabric === fabric && where.place === place) void say(queries);
		}, SAID_AGAIN);
	}
}

/** This page has a fabric open, at a place: a step of the work, or a word that is being changed. */
export function useBeingAt(fabric: string, place: string) {
	const queries = useQueryClient();
	useEffect(() => {
		where = { fabric, place };
		const later = setTimeout(() => void say(queries), 250);
		return () => clearTimeout(later);
	}, [fabric, place, queries]);
	useEffect(
		() => () => {
			where = { fabric: "", place: "" };
		},
		[],
	);
}
