/** Other ways in than a password: the office's provider, and passkeys. Between its two steps the browser keeps a ticket. */
import { useQuery } from "@tanstack/react-query";
import { client, Failure, got } from "./client";
import type { components } from "./schema";

type Asked = components["schemas"]["DeviceAsked"];

export const useWays = () =>
	useQuery({
		queryKey: ["ways"],
		queryFn: () => got(client.GET("/api/v1/ways")),
		staleTime: Number.POSITIVE_INFINITY,
	});

/** Passkeys are bound to a name: not where this page was opened by a number, nor by a browser that knows none. */
export const passkeysWork = (): boolean =>
	typeof PublicKeyCredential !== "undefined" &&
	"parseRequestOptionsFromJSON" in PublicKeyCredential &&
	!/^[\d.]+$|:/.test(location.hostname);

/** A device was not asked, or whoever holds it said no. */
export class Declined extends Failure {
	constructor(words: string) {
		super({
			type: "urn:barrio:problem:declined",
			title: "Not now",
			status: 0,
			detail: words,
			faults: [],
			request: "",
		});
	}
}

async function asked(ask: () => Promise<Credential | null>): Promise<Record<string, unknown>> {
	try {
		const credential = await ask();
		if (credential instanceof PublicKeyCredential)
			return credential.toJSON() as unknown as Record<string, unknown>;
	} catch (failure) {
		if (!(failure instanceof DOMException)) throw failure;
		const words =
			failure.name === "InvalidStateError"
				? "This device has a passkey of yours already."
				: "The device gave no passkey: it has none of this Barrio's, or the question was dismissed.";
		throw new Declined(words);
	}
	throw new Declined("The device gave no passkey.");
}

/** The answer of a passkey to being asked who is there. */
export const signed = (to: Asked) =>
	asked(() =>
		navigator.credentials.get({
			publicKey: PublicKeyCredential.parseRequestOptionsFromJSON(
				to.options as unknown as PublicKeyCredentialRequestOptionsJSON,
			),
		}),
	);

/** A new passkey, made by a device. */
export const made = (to: Asked) =>
	asked(() =>
		navigator.credentials.create({
			publicKey: PublicKeyCredential.parseCreationOptionsFromJSON(
				to.options as unknown as PublicKeyCredentialCreationOptionsJSON,
			),
		}),
	);

/** Sign in by a passkey. */
export async function enterByPasskey() {
	const to = await got(client.POST("/api/v1/session/passkey/begin"));
	return got(
		client.POST("/api/v1/session/passkey", { body: { ticket: to.ticket, answer: await signed(to) } }),
	);
}

/** What is known here of somebody who was sent to the provider. */
interface Gone {
	ticket: string;
	/** Whether they came to join its account to their own page. */
	joins: boolean;
	/** Where they were. */
	from: string;
}

const GONE = "barrio.gone";

/** Send the browser to the provider. */
export function goAway(away: { to: string; ticket: string }, joins: boolean) {
	const gone: Gone = { ticket: away.ticket, joins, from: location.pathname + location.search };
	sessionStorage.setItem(GONE, JSON.stringify(gone));
	location.assign(away.to);
}

/** What is known of whoever came back, until it is forgotten. */
export function cameBack(): Gone | null {
	const kept = sessionStorage.getItem(GONE);
	return kept ? (JSON.parse(kept) as Gone) : null;
}

/** Whoever came back did so once. */
export const forgetAway = () => sessionStorage.removeItem(GONE);
