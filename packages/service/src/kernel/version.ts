/** The version of the service, for `/ready` and the OpenAPI documents. */
export const version = '0.1.0'
