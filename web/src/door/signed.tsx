/** What is behind the door: shown to who is signed in, and the door to everybody else. */
import { useQueryClient } from "@tanstack/react-query";
import { type ReactNode, useEffect } from "react";
import { useLocation } from "react-router";
import { useEvents } from "../api/events";
import { useEnded } from "../api/jobs";
import { useSession } from "../api/session";
import { keepManners } from "../ui/theme";
import { SignIn } from "./signin";

export function Signed({ children }: { children: ReactNode }) {
	const session = useSession();
	const queries = useQueryClient();
	useEffect(() => {
		// A call found the session ended: the door is shown, and what was at hand is forgotten.
		const out = () => queries.setQueryData(["session"], null);
		addEventListener("signedout", out);
		return () => removeEventListener("signedout", out);
	}, [queries]);
	const manners = session.data?.manners;
	useEffect(() => keepManners(manners), [manners]);
	if (session.isPending) return null;
	if (session.error)
		return (
			<main className="p-10">
				<h1 className="mb-2 text-lg font-bold">{session.error.message}</h1>
				<button type="button" className="button-plain" onClick={() => void session.refetch()}>
					Try again
				</button>
			</main>
		);
	return session.data ? <Inside>{children}</Inside> : <SignIn />;
}

/** Who is inside hears of what others do. */
function Inside({ children }: { children: ReactNode }) {
	useEvents();
	useEnded(useLocation().pathname === "/jobs");
	return children;
}
