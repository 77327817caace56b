/** In the place of a module of Node’s that a package names and never asks for in a browser. */
export default null;
