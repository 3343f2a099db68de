/** Deeds on cables on their way: kept on this device until the server has them, and shown as if they were there already. */
import { useQueryClient } from "@tanstack/react-query";
import { useCallback, useEffect, useMemo, useSyncExternalStore } from "react";
import { client, Failure, got } from "../api/client";
import type { components } from "../api/schema";
import { useNotices } from "../ui/notices";
import type { Worked } from "./queries";

export type Deed = components["schemas"]["NewDeed"];
export type Kind = Deed["kind"];

/** After so long what could not be sent is sent again. */
const AGAIN = 10_000;
const MOST = 500;

const key = (fabric: string) => `deeds ${fabric}`;
const listeners = new Set<() => void>();
const sending = new Set<string>();

function waiting(fabric: string): Deed[] {
	return JSON.parse(localStorage.getItem(key(fabric)) ?? "[]") as Deed[];
}

function keep(fabric: string, deeds: Deed[]) {
	if (deeds.length) localStorage.setItem(key(fabric), JSON.stringify(deeds));
	else localStorage.removeItem(key(fabric));
	for (const heard of listeners) heard();
}

const listen = (heard: () => void) => {
	listeners.add(heard);
	addEventListener("storage", heard);
	return () => {
		listeners.delete(heard);
		removeEventListener("storage", heard);
	};
};

export interface Outbox {
	deeds: Deed[];
	record: (cable: string, kind: Kind, more?: Partial<Deed>) => void;
}

/** What waits to be sent for a fabric, and how to record more. */
export function useOutbox(fabric: string): Outbox {
	const queries = useQueryClient();
	const { tell } = useNotices();
	const text = useSyncExternalStore(listen, () => localStorage.getItem(key(fabric)) ?? "[]");
	const deeds = useMemo(() => JSON.parse(text) as Deed[], [text]);
	const send = useCallback(async () => {
		const part = waiting(fabric).slice(0, MOST);
		if (!part.length || sending.has(fabric)) return;
		sending.add(fabric);
		try {
			await got(
				client.POST("/api/v1/fabrics/{name}/cable-work", {
					params: { path: { name: fabric } },
					body: { deeds: part },
				}),
			);
			await queries.invalidateQueries({ queryKey: ["fabric", fabric, "work"] });
			void queries.invalidateQueries({ queryKey: ["fabric", fabric, "cables"] });
			drop(fabric, part);
		} catch (failure) {
			// What the server will never take is told and given up; all else waits for a better moment.
			if (failure instanceof Failure && [403, 404, 422].includes(failure.problem.status)) {
				drop(fabric, part);
				tell({ tone: "wrong", text: failure.message });
			}
		} finally {
			sending.delete(fabric);
		}
		if (waiting(fabric).length > 0 && waiting(fabric)[0]?.id !== part[0]?.id) void send();
	}, [fabric, queries, tell]);
	useEffect(() => {
		void send();
		const again = setInterval(() => void send(), AGAIN);
		addEventListener("online", send);
		return () => {
			clearInterval(again);
			removeEventListener("online", send);
		};
	}, [send]);
	const record = useCallback(
		(cable: string, kind: Kind, more: Partial<Deed> = {}) => {
			const deed: Deed = {
				id: crypto.randomUUID(),
				cable,
				kind,
				done_at: new Date().toISOString(),
				text: "",
				...more,
			};
			keep(fabric, [...waiting(fabric), deed]);
			void send();
		},
		[fabric, send],
	);
	return { deeds, record };
}

function drop(fabric: string, sent: Deed[]) {
	const ids = new Set(sent.map((deed) => deed.id));
	keep(
		fabric,
		waiting(fabric).filter((deed) => !ids.has(deed.id)),
	);
}

const BLANK: Omit<Worked, "label" | "link"> = {
	laid_by: "",
	laid_at: null,
	measured: null,
	measured_by: "",
	scanned_a: "",
	scanned_b: "",
	light_a: null,
	light_b: null,
	fault: "",
	fault_by: "",
	wrong_label: null,
};

/** What was done to cables, by the key of the link, with what is on its way laid over it. */
export function withWaiting(
	rows: Worked[],
	deeds: Deed[],
	labels: ReadonlyMap<string, string>,
): Map<string, Worked> {
	const found = new Map(rows.map((row) => [row.link, row]));
	for (const deed of deeds) {
		const label = labels.get(deed.cable) ?? "";
		found.set(deed.cable, after(found.get(deed.cable) ?? { ...BLANK, label, link: deed.cable }, deed));
	}
	return found;
}

function after(was: Worked, deed: Deed): Worked {
	const scanned = (end: string): Worked => {
		const other = deed.text?.split(/[\s|]/)[0] !== was.label;
		const wrong = other ? `end ${end.toUpperCase()} bears ${deed.text?.split(/[\s|]/)[0]}` : was.wrong_label;
		return { ...was, [`scanned_${end}`]: deed.text, wrong_label: wrong };
	};
	switch (deed.kind) {
		case "laid":
			return { ...was, laid_by: "you", laid_at: deed.done_at };
		case "taken out":
			return { ...was, laid_by: "", laid_at: null, scanned_a: "", scanned_b: "", wrong_label: null };
		case "scanned a":
		case "scanned b":
			return scanned(deed.kind.slice(-1));
		case "measured":
			return { ...was, measured: deed.number ?? null, measured_by: "you" };
		case "light a":
		case "light b":
			return { ...was, [`light_${deed.kind.slice(-1)}`]: deed.number ?? null };
		case "fault":
			return { ...was, fault: deed.text ?? "", fault_by: "you" };
		case "mended":
			return { ...was, fault: "", fault_by: "" };
	}
}
