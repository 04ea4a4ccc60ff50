/** A zone signed by a signer of another make, for the examples of rules about signatures: ECDSA P-256, valid from 2026 to 2055. */
export const SIGNED_ZONE = `hollowmere.example. 3600 IN SOA ns1.upland-dns.example. hostmaster.upland-dns.example. 2026112301 7200 900 1209600 3600
hollowmere.example. 3600 IN RRSIG SOA 13 2 3600 20550101000000 20260101000000 62268 hollowmere.example. hJR32jhRajAZ3XFIohtK2t6Cm20J9CIvfiSQcBkD34LLEO787RbOCtJv aClxoKHFb7JLQHKqhKx3y0mO6XaT1A==
hollowmere.example. 3600 IN NS ns1.upland-dns.example.
hollowmere.example. 3600 IN NS ns2.upland-dns.example.
hollowmere.example. 3600 IN RRSIG NS 13 2 3600 20550101000000 20260101000000 62268 hollowmere.example. TZDV9MR2kxs31zLAdl9nWbQSnO3PUz085kzs87geZ22sNcLADiGsC/aB KOH25iDJmVe+gXNWclJhwTYu/ShoaQ==
hollowmere.example. 3600 IN MX 10 mail.hollowmere.example.
hollowmere.example. 3600 IN RRSIG MX 13 2 3600 20550101000000 20260101000000 62268 hollowmere.example. /rKSK1E6Bu1YXcZDDkZApo6otdMJ9M/olUx8Bg8i9othdmbcqs1fNrp+ oWqJ4lb3wokLFQGx6q0Z0EeZ4D7F8g==
hollowmere.example. 3600 IN NSEC mail.hollowmere.example. NS SOA MX RRSIG NSEC DNSKEY
hollowmere.example. 3600 IN RRSIG NSEC 13 2 3600 20550101000000 20260101000000 62268 hollowmere.example. aORfD06KPnTI7eJYeS+gNkGQ7IR33SKXab2yN+P0/D02pS2LOb5zsVhd eQ1/n0z12DSP7OlWpdMPTymKnGp71Q==
hollowmere.example. 3600 IN DNSKEY 257 3 13 grMCLo7zIrdXTkLLdX0bDhKZrMeIrSZbFcQRaZKZZpKiOeS2i0xFHYCb 57UxQDJjjG0g4RUS6Bg+ffmucvKGUw==
hollowmere.example. 3600 IN RRSIG DNSKEY 13 2 3600 20550101000000 20260101000000 62268 hollowmere.example. gtOLHd7r9qyq/6EGQCF5hy3KUDM4SnDGdqwhcuZs8fPebvGyoRoO7Xuk dN1p56DWKE+JmqzSMPWLanNMos863A==
mail.hollowmere.example. 3600 IN A 192.0.2.25
mail.hollowmere.example. 3600 IN RRSIG A 13 3 3600 20550101000000 20260101000000 62268 hollowmere.example. BMfiC0ggf7WQT2w3pgQmjfFyZAvFjN3oKXkzHKO9vMI72dagxedP1nU2 wKgR4weJtO18OA9yxWm/o/xDt4xJFQ==
mail.hollowmere.example. 3600 IN NSEC www.hollowmere.example. A RRSIG NSEC
mail.hollowmere.example. 3600 IN RRSIG NSEC 13 3 3600 20550101000000 20260101000000 62268 hollowmere.example. AG4OxMBd6RHsZEkaVgahFgjmVkETWypf7rCyJNFRwuO76Li6Q5JQPCk5 bs1wOCjqM1r/fbA1YHeZnYiU+xZ6DA==
www.hollowmere.example. 3600 IN A 192.0.2.10
www.hollowmere.example. 3600 IN RRSIG A 13 3 3600 20550101000000 20260101000000 62268 hollowmere.example. J8ISzkHNayOu3iwL6o2/xSzeE4DXNw8c4QgbU/rEg0dvqiBQXehJX0Zw G5yxFK0i4jpoaBeaoas327prAX4kCA==
www.hollowmere.example. 3600 IN NSEC hollowmere.example. A RRSIG NSEC
www.hollowmere.example. 3600 IN RRSIG NSEC 13 3 3600 20550101000000 20260101000000 62268 hollowmere.example. uygNTKC6duBvURqFjbDjfysnGoe8NIaYqBqTBWq2e4CblumY5D6H4Icd FQ76FRxTl+b3VK3UjtfFX99lBxR8Sw==`

/** The DS record that belongs to its key. */
export const SIGNED_ZONE_DS =
  'hollowmere DS 62268 13 2 F819AF6D4C59475D4A7B9885C714C61BC80BC555C918F3457B18A00BFD68DA93'
