/** Keys for examples. */

export const TEST_KEY = '11qYAYKxCrfVS/7TyWQHOg7hcvPapiMlrwIaaPcHURo='

export const OTHER_KEY = 'O2onvM62pC1io6jQKm8Nc2UyFXcd4kOmOsBIoYtZ2ik='

export const GOOD = `s1._domainkey TXT "v=DKIM1; k=ed25519; p=${TEST_KEY}"`
