"""The codes of currencies, which are the only letters that stand before a figure: `EUR 12`, but no `SKU 12`."""

from __future__ import annotations

# Those that are hardly ever anything else, in a heading or as the values of a column.
USUAL = frozenset(
    {"AED", "ARS", "AUD", "BGN", "BRL", "CAD", "CHF", "CLP", "CNY", "COP", "CZK", "DKK", "EGP", "EUR", "GBP",
     "HKD", "HUF", "IDR", "ILS", "INR", "ISK", "JPY", "KES", "KRW", "MAD", "MXN", "MYR", "NGN", "NOK", "NZD",
     "PHP", "PLN", "QAR", "RON", "RUB", "SAR", "SEK", "SGD", "THB", "TRY", "TWD", "UAH", "USD", "VND", "ZAR"}
)  # fmt: skip
# All that are tender by ISO 4217, and some that were.
CURRENCIES = USUAL.union(
    {"AFN", "ALL", "AMD", "ANG", "AOA", "AWG", "AZN", "BAM", "BBD", "BDT", "BHD", "BIF", "BMD", "BND", "BOB",
     "BSD", "BTN", "BWP", "BYN", "BZD", "CDF", "CNH", "CRC", "CUP", "CVE", "DEM", "DJF", "DOP", "DZD", "ERN",
     "ESP", "ETB", "FJD", "FKP", "FRF", "GEL", "GHS", "GIP", "GMD", "GNF", "GTQ", "GYD", "HNL", "HRK", "HTG",
     "IQD", "IRR", "ITL", "JMD", "JOD", "KGS", "KHR", "KMF", "KPW", "KWD", "KYD", "KZT", "LAK", "LBP", "LKR",
     "LRD", "LSL", "LYD", "MDL", "MGA", "MKD", "MMK", "MNT", "MOP", "MRU", "MUR", "MVR", "MWK", "MZN", "NAD",
     "NIO", "NLG", "NPR", "OMR", "PAB", "PEN", "PGK", "PKR", "PYG", "RMB", "RSD", "RWF", "SBD", "SCR", "SDG",
     "SHP", "SLE", "SOS", "SRD", "SSP", "STN", "SYP", "SZL", "TJS", "TMT", "TND", "TOP", "TTD", "TZS", "UGX",
     "UYU", "UZS", "VES", "VUV", "WST", "XAF", "XCD", "XCG", "XOF", "XPF", "YER", "ZMW", "ZWG"}
)  # fmt: skip
