/** The context that says whether the brief shows each of its sentences on one line. */
export const SHORT = Symbol('short brief');
