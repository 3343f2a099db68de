/** Who one is here, at the end of every screen's head: one's own page, who else there is, and the way out. */
import * as Popover from "@radix-ui/react-popover";
import { Link } from "react-router";
import { may, useSession, useSignOut } from "../api/session";

export function Me() {
	const { data: who } = useSession();
	const out = useSignOut();
	if (!who) return null;
	const item = "block w-full rounded-[3px] px-2 py-1 text-left hover:bg-chosen";
	return (
		<Popover.Root>
			<Popover.Trigger
				aria-label={`${initials(who.called)}, ${who.called}: own page, people, sign out`}
				className="mb-2.5 h-8 min-w-8 rounded-full border-2 border-indigo border-dashed bg-raised px-1 text-[12px] font-bold text-indigo hover:border-indigo"
			>
				{initials(who.called)}
			</Popover.Trigger>
			<Popover.Portal>
				<Popover.Content
					align="end"
					sideOffset={4}
					className="z-30 w-[230px] rounded-[4px] border border-hair bg-raised p-2 shadow-md"
				>
					<div className="mb-1 border-b border-hair px-2 pb-1.5">
						<b>{who.called}</b> <span className="mono text-soft">{who.name}</span>
					</div>
					<Popover.Close asChild>
						<Link className={item} to="/me">
							Own page
						</Link>
					</Popover.Close>
					<Popover.Close asChild>
						<Link className={item} to="/jobs">
							Jobs
						</Link>
					</Popover.Close>
					{may(who, "people") && (
						<Popover.Close asChild>
							<Link className={item} to="/people">
								People
							</Link>
						</Popover.Close>
					)}
					{may(who, "record") && (
						<Popover.Close asChild>
							<Link className={item} to="/record">
								Record
							</Link>
						</Popover.Close>
					)}
					<button type="button" className={item} onClick={() => out.mutate()}>
						Sign out
					</button>
				</Popover.Content>
			</Popover.Portal>
		</Popover.Root>
	);
}

export const initials = (called: string): string =>
	called
		.split(" ")
		.map((word) => word.charAt(0).toUpperCase())
		.filter(Boolean)
		.slice(0, 2)
		.join("");
