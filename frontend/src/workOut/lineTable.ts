/** The context with the table that a line finds: what gives it, or nothing while there is none. */
export const LINE_TABLE = Symbol('the table that a line finds');
