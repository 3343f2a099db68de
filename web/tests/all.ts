import "./geometry";
import "./racks";
import "./spans";
