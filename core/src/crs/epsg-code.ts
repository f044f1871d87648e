/** A code of the EPSG Geodetic Parameter Dataset, as it is written here. */
export const EPSG_CODE = /^EPSG:\d{4,6}$/;
