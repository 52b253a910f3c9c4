/** The version of the service, as `/ready` and the OpenAPI documents say it. */
export const version = '0.1.0'
