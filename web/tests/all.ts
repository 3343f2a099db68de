import "./geometry";
import "./racks";
