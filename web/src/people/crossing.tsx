/** Where somebody and a fabric cross: what they are to it, and what else they could be. */
import * as Popover from "@radix-ui/react-popover";
import type { Role } from "../api/session";
import { type Given, give, ROLES, take, usePeopleAct, useTable, type Whom } from "./queries";

interface Props {
	whom: Whom;
	called: string;
	fabric: string | null;
	given: Given[];
}

export function Crossing({ whom, called, fabric, given }: Props) {
	const roles = [...new Set(given.map((one) => one.role))];
	const where = fabric ?? "all fabrics";
	return (
		<td className="thread-crossing p-0 text-center">
			<Popover.Root>
				<Popover.Trigger
					aria-label={`${called}, ${where}: ${roles.join(", ") || "nothing"}`}
					className="relative flex h-11 w-full items-center justify-center px-1.5 hover:bg-chosen data-[state=open]:bg-chosen"
				>
					{roles.length > 0 && (
						<span className="flex max-w-[150px] flex-wrap justify-center bg-paper whitespace-pre px-1.5 text-[12px] leading-tight font-[560] text-indigo">
							{roles.map((role, at) => (
								<span
									key={role}
									className={
										given.some((one) => one.role === role && own(one, whom))
											? ""
											: "font-normal text-walnut italic"
									}
								>
									{at < roles.length - 1 ? `${role}, ` : role}
								</span>
							))}
						</span>
					)}
				</Popover.Trigger>
				<Popover.Portal>
					<Popover.Content
						sideOffset={2}
						collisionPadding={10}
						className="z-30 w-[330px] rounded-[4px] border border-hair bg-raised p-3 shadow-md"
					>
						<Roles {...{ whom, called, fabric, given }} />
					</Popover.Content>
				</Popover.Portal>
			</Popover.Root>
		</td>
	);
}

const own = (given: Given, whom: Whom) =>
	whom.team ? given.team === whom.team : given.person === whom.person;

function Roles({ whom, called, fabric, given }: Props) {
	const words = new Map(useTable().data?.roles.map((one) => [one.role, one.words]));
	const change = usePeopleAct(({ role, has }: { role: Role; has: Given | undefined }) =>
		has ? take(has) : give(role, whom, fabric),
	);
	const possible = fabric ? ROLES.filter((role) => role !== "keeper") : ROLES;
	return (
		<fieldset>
			<legend className="mb-2 font-bold">
				{called} and {fabric ?? "all fabrics"}
			</legend>
			<ul className="space-y-1">
				{possible.map((role) => {
					const has = given.find((one) => one.role === role && own(one, whom));
					const by = given.find((one) => one.role === role && !own(one, whom));
					return (
						<li key={role}>
							<label className="flex cursor-pointer gap-2.5">
								<input
									type="checkbox"
									className="mt-[3px] accent-(--indigo)"
									checked={Boolean(has)}
									disabled={change.isPending}
									onChange={() => change.mutate({ role, has })}
								/>
								<span>
									<b className="font-[560]">{role}</b>
									{by && <span className="text-walnut italic"> by {by.team}</span>}
									<span className="block text-[11.8px] text-soft">{words.get(role)}</span>
								</span>
							</label>
						</li>
					);
				})}
			</ul>
		</fieldset>
	);
}
