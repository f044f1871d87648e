/** Whether the values of a field name records, by what it is called (common practice, no source). */
export const isKeyName = (name: string): boolean => KEY.test(name);
const KEY = /^(id|fid|gid|oid|objectid|ogc_fid|key|code|uuid|guid|[a-z0-9]+_id|[a-z0-9]+_code)$/i;
