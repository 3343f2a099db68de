/** The one table that says what a role may do. */
import { ROLES, useTable } from "./queries";

export function RightsTable() {
	const { data } = useTable();
	if (!data) return null;
	return (
		<section aria-label="What a role may do" className="mt-9">
			<h2 className="mb-1 text-[15px] font-bold">What a role may do</h2>
			<table className="border-collapse">
				<thead>
					<tr className="border-b border-hair">
						<td />
						{ROLES.map((role) => (
							<th key={role} scope="col" className="w-[92px] py-1 text-center text-[12.5px] font-[560]">
								{role}
							</th>
						))}
					</tr>
				</thead>
				<tbody>
					{data.rights.map((right) => (
						<tr key={right.right} className="border-b border-hair/60">
							<th scope="row" className="py-[3px] pr-6 pl-2 text-left font-normal">
								{right.words}
							</th>
							{ROLES.map((role) => (
								<td key={role} className="text-center">
									{right.roles.includes(role) ? (
										<span className="inline-block size-[9px] bg-indigo align-middle">
											<span className="sr-only">may</span>
										</span>
									) : (
										<span className="text-hair" aria-hidden="true">
											·
										</span>
									)}
								</td>
							))}
						</tr>
					))}
				</tbody>
			</table>
		</section>
	);
}
