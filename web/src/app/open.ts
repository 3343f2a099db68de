/** The fabric that is open: every screen of one has it from the frame around it. */
import { useOutletContext } from "react-router";
import type { Fabric } from "../api/client";

export const useOpenFabric = () => useOutletContext<Fabric>();
