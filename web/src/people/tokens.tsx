/** Tokens for programs: what each may do, until when; a new one is shown once. */
import * as Popover from "@radix-ui/react-popover";
import { useState } from "react";
import { client, got } from "../api/client";
import type { Role } from "../api/session";
import { Asked, Field } from "../app/asked";
import { day } from "../ui/words";
import { Part } from "./part";
import { type MePage, usePeopleAct } from "./queries";

export function Tokens({ me }: { me: MePage }) {
	const end = usePeopleAct((token: string) =>
		got(client.DELETE("/api/v1/me/tokens/{token}", { params: { path: { token } } })),
	);
	return (
		<Part title="Tokens for programs">
			<ul className="mb-2">
				{me.tokens.map((one) => (
					<li key={one.id} className="flex gap-3 border-b border-hair/60 py-1">
						<span className="min-w-0 flex-1">
							<b className="font-[560]">{one.name}</b>
							<span className="block text-[11.8px] text-soft">
								{one.roles.join(", ")} of {one.fabrics?.join(", ") ?? "all fabrics"}, until {day(one.ends_at)}
								, {one.used_at ? `used ${day(one.used_at)}` : "not used yet"}
							</span>
						</span>
						<button
							type="button"
							className="button-plain"
							disabled={end.isPending}
							aria-label={`End token ${one.name}`}
							onClick={() => end.mutate(one.name)}
						>
							End
						</button>
					</li>
				))}
			</ul>
			<NewToken me={me} />
		</Part>
	);
}

function NewToken({ me }: { me: MePage }) {
	const mine = [...new Set(me.given.map((one) => one.role))] as Role[];
	const fabrics = [
		...new Set(me.given.map((one) => one.fabric).filter((one): one is string => one !== null)),
	];
	const [name, setName] = useState("");
	const [roles, setRoles] = useState<Role[]>(mine.length === 1 ? mine : []);
	const [fabric, setFabric] = useState("");
	const [days, setDays] = useState(90);
	const make = usePeopleAct(
		() =>
			got(
				client.POST("/api/v1/me/tokens", {
					body: {
						name,
						roles,
						fabrics: fabric.trim() ? fabric.split(/[\s,]+/).filter(Boolean) : null,
						days,
					},
				}),
			),
		undefined,
		true,
	);
	if (!mine.length) return null;
	return (
		<Popover.Root
			onOpenChange={(open) => {
				if (!open) make.reset();
			}}
		>
			<Popover.Trigger className="button-plain">New token</Popover.Trigger>
			<Popover.Portal>
				<Popover.Content
					align="start"
					sideOffset={4}
					collisionPadding={10}
					className="z-30 w-[400px] rounded-[4px] border border-hair bg-raised p-3 shadow-md"
				>
					{make.data ? (
						<>
							<p className="mb-2">
								This is the token. A program shows it as <code className="mono">Authorization: Bearer …</code>
								, or in <code className="mono">BARRIO_TOKEN</code>. It is not shown again.
							</p>
							<output className="mono block border border-hair bg-paper p-2 break-all">
								{make.data.token}
							</output>
						</>
					) : (
						<Asked act={make} verb="Make it" onTake={() => make.mutate(undefined)}>
							<Field label="It is for" value={name} placeholder="the nightly export" set={setName} required />
							<fieldset className="flex flex-wrap gap-x-4">
								<legend className="mb-1">Of what you are, it is</legend>
								{mine.map((role) => (
									<label key={role} className="flex gap-1.5">
										<input
											type="checkbox"
											className="accent-(--indigo)"
											checked={roles.includes(role)}
											onChange={(event) =>
												setRoles(
													event.target.checked ? [...roles, role] : roles.filter((one) => one !== role),
												)
											}
										/>
										{role}
									</label>
								))}
							</fieldset>
							<Field
								label="for these fabrics (empty: all of yours)"
								mono
								value={fabric}
								placeholder={fabrics.join(", ") || "marlin, tern"}
								set={setFabric}
							/>
							<label className="flex items-center gap-2">
								for
								<input
									type="number"
									min={1}
									max={366}
									className="field w-20"
									value={days}
									onChange={(event) => setDays(Number(event.target.value))}
								/>
								days
							</label>
						</Asked>
					)}
				</Popover.Content>
			</Popover.Portal>
		</Popover.Root>
	);
}
