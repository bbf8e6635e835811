//! The units that are known.
//!
//! Symbols follow UCUM where stewards use them (`kg`, `[lb_av]`), with the everyday forms beside
//! them (`lb`). The factors are the exact legal definitions: the international yard and pound of
//! 1959, the US gallon of 231 cubic inches, the imperial gallon of 4.54609 litres, the nautical mile of 1,852 metres.

use super::{Dimension, Unit};

const MASS: Dimension = Dimension::of(1, 0, 0);
const LENGTH: Dimension = Dimension::of(0, 1, 0);
const AREA: Dimension = Dimension::of(0, 2, 0);
const VOLUME: Dimension = Dimension::of(0, 3, 0);
const TIME: Dimension = Dimension::of(0, 0, 1);
const SPEED: Dimension = Dimension::of(0, 1, -1);
const FREQUENCY: Dimension = Dimension::of(0, 0, -1);
const PRESSURE: Dimension = Dimension::of(1, -1, -2);
const ENERGY: Dimension = Dimension::of(1, 2, -2);
const POWER: Dimension = Dimension::of(1, 2, -3);

const fn unit(
    symbol: &'static str,
    also: &'static [&'static str],
    name: &'static str,
    dimension: Dimension,
    times: i128,
    by: i128,
) -> Unit {
    Unit { symbol, also, name, dimension, to_base: (times, 0, by) }
}

const fn degrees(
    symbol: &'static str,
    also: &'static [&'static str],
    name: &'static str,
    to_base: (i128, i128, i128),
) -> Unit {
    Unit { symbol, also, name, dimension: Dimension::Temperature, to_base }
}

/// A currency is never converted.
const fn money(code: &'static str, also: &'static [&'static str], name: &'static str) -> Unit {
    Unit { symbol: code, also, name, dimension: Dimension::Money(code, [0, 0, 0]), to_base: (1, 0, 1) }
}

/// Every unit known, in base units gram, millimetre, second, degree Celsius, percent and degree of arc. The
/// other names are compared without case where they are words.
pub(super) static UNITS: [Unit; 106] = [
    unit("%", &["percent", "per cent", "pct"], "percent", Dimension::Share, 1, 1),
    unit("1", &[], "a share of one", Dimension::Share, 100, 1),
    unit("‰", &["[ppth]", "permille"], "permille", Dimension::Share, 1, 10),
    unit("ppm", &["[ppm]"], "parts per million", Dimension::Share, 1, 10_000),
    unit("µg", &["ug", "μg", "mcg", "microgram"], "micrograms", MASS, 1, 1_000_000),
    unit("mg", &["milligram", "milligramme"], "milligrams", MASS, 1, 1_000),
    unit("g", &["gram", "gramme"], "grams", MASS, 1, 1),
    unit("kg", &["kgs", "kilo", "kilogram", "kilogramme"], "kilograms", MASS, 1_000, 1),
    unit("t", &["tonne", "metric ton"], "tonnes", MASS, 1_000_000, 1),
    unit("ct", &["[car_m]", "carat"], "carats", MASS, 2, 10),
    unit("oz", &["[oz_av]", "ounce"], "ounces", MASS, 28_349_523_125, 1_000_000_000),
    unit("lb", &["lbs", "[lb_av]", "pound"], "pounds", MASS, 45_359_237, 100_000),
    unit("st", &["[stone_av]", "stone"], "stones", MASS, 635_029_318, 100_000),
    unit("ton_us", &["[ston_av]", "short ton"], "US tons", MASS, 90_718_474_000, 100_000),
    unit("ton_br", &["[lton_av]", "long ton"], "imperial tons", MASS, 1_016_046_908_800, 1_000_000),
    unit("µm", &["um", "μm", "micrometre", "micrometer", "micron"], "micrometres", LENGTH, 1, 1_000),
    unit("mm", &["millimetre", "millimeter"], "millimetres", LENGTH, 1, 1),
    unit("cm", &["centimetre", "centimeter"], "centimetres", LENGTH, 10, 1),
    unit("dm", &["decimetre", "decimeter"], "decimetres", LENGTH, 100, 1),
    unit("m", &["metre", "meter"], "metres", LENGTH, 1_000, 1),
    unit("km", &["kilometre", "kilometer"], "kilometres", LENGTH, 1_000_000, 1),
    unit("in", &["[in_i]", "inch", "inches", "\""], "inches", LENGTH, 254, 10),
    unit("ft", &["[ft_i]", "foot", "feet"], "feet", LENGTH, 3_048, 10),
    unit("yd", &["[yd_i]", "yds", "yard"], "yards", LENGTH, 9_144, 10),
    unit("mi", &["[mi_i]", "mile"], "miles", LENGTH, 1_609_344, 1),
    unit("nmi", &["[nmi_i]", "nautical mile"], "nautical miles", LENGTH, 1_852_000, 1),
    unit("mm2", &["mm²", "mm^2", "sq mm"], "square millimetres", AREA, 1, 1),
    unit("cm2", &["cm²", "cm^2", "sq cm"], "square centimetres", AREA, 100, 1),
    unit(
        "m2",
        &["m²", "m^2", "sqm", "sq m", "square metre", "square meter"],
        "square metres",
        AREA,
        1_000_000,
        1,
    ),
    unit("a", &["ar", "are"], "ares", AREA, 100_000_000, 1),
    unit("ha", &["har", "hectare"], "hectares", AREA, 10_000_000_000, 1),
    unit("km2", &["km²", "km^2", "sq km"], "square kilometres", AREA, 1_000_000_000_000, 1),
    unit(
        "ft2",
        &["[sft_i]", "ft²", "ft^2", "sqft", "sq ft", "square foot", "square feet"],
        "square feet",
        AREA,
        9_290_304,
        100,
    ),
    unit("ac", &["[acr_br]", "acre"], "acres", AREA, 40_468_564_224, 10),
    unit("mi2", &["mi²", "mi^2", "sq mi"], "square miles", AREA, 2_589_988_110_336, 1),
    unit("µl", &["ul", "μl", "uL", "µL"], "microlitres", VOLUME, 1, 1),
    unit("ml", &["mL", "millilitre", "milliliter", "cc"], "millilitres", VOLUME, 1_000, 1),
    unit("cl", &["cL", "centilitre", "centiliter"], "centilitres", VOLUME, 10_000, 1),
    unit("dl", &["dL", "decilitre", "deciliter"], "decilitres", VOLUME, 100_000, 1),
    unit("l", &["L", "ltr", "litre", "liter"], "litres", VOLUME, 1_000_000, 1),
    unit("hl", &["hL", "hectolitre", "hectoliter"], "hectolitres", VOLUME, 100_000_000, 1),
    unit("cm3", &["cm³", "cm^3", "ccm"], "cubic centimetres", VOLUME, 1_000, 1),
    unit("m3", &["m³", "m^3", "cbm", "cubic metre", "cubic meter"], "cubic metres", VOLUME, 1_000_000_000, 1),
    unit("gal_us", &["[gal_us]", "us gallon"], "US gallons", VOLUME, 3_785_411_784, 1_000),
    unit("gal_br", &["[gal_br]", "imperial gallon"], "imperial gallons", VOLUME, 4_546_090, 1),
    unit("pt_us", &["[pt_us]"], "US pints", VOLUME, 473_176_473, 1_000),
    unit("pt_br", &["[pt_br]"], "imperial pints", VOLUME, 56_826_125, 100),
    unit("floz_us", &["[foz_us]"], "US fluid ounces", VOLUME, 295_735_295_625, 10_000_000),
    unit("floz_br", &["[foz_br]"], "imperial fluid ounces", VOLUME, 284_130_625, 10_000),
    unit("ms", &["millisecond", "msec"], "milliseconds", TIME, 1, 1_000),
    unit("s", &["sec", "second"], "seconds", TIME, 1, 1),
    unit("min", &["mins", "minute"], "minutes", TIME, 60, 1),
    unit("h", &["hr", "hrs", "hour"], "hours", TIME, 3_600, 1),
    unit("d", &["day"], "days", TIME, 86_400, 1),
    unit("wk", &["wks", "week"], "weeks", TIME, 604_800, 1),
    unit("m/s", &["mps"], "metres per second", SPEED, 1_000, 1),
    unit("km/h", &["kmh", "kph"], "kilometres per hour", SPEED, 1_000_000, 3_600),
    unit("mph", &["[mi_i]/h"], "miles per hour", SPEED, 1_609_344, 3_600),
    unit("kn", &["[kn_i]", "kt", "kts", "knot"], "knots", SPEED, 1_852_000, 3_600),
    unit("Hz", &["hertz"], "hertz", FREQUENCY, 1, 1),
    unit("kHz", &["kilohertz"], "kilohertz", FREQUENCY, 1_000, 1),
    unit("MHz", &["megahertz"], "megahertz", FREQUENCY, 1_000_000, 1),
    unit("GHz", &["gigahertz"], "gigahertz", FREQUENCY, 1_000_000_000, 1),
    unit("rpm", &["r/min", "1/min"], "turns per minute", FREQUENCY, 1, 60),
    unit("Pa", &["pascal"], "pascals", PRESSURE, 1, 1),
    unit("hPa", &["hectopascal"], "hectopascals", PRESSURE, 100, 1),
    unit("kPa", &["kilopascal"], "kilopascals", PRESSURE, 1_000, 1),
    unit("MPa", &["megapascal"], "megapascals", PRESSURE, 1_000_000, 1),
    unit("mbar", &["millibar"], "millibars", PRESSURE, 100, 1),
    unit("bar", &[], "bars", PRESSURE, 100_000, 1),
    unit("atm", &["atmosphere"], "atmospheres", PRESSURE, 101_325, 1),
    unit("psi", &["[psi]"], "pounds per square inch", PRESSURE, 44_482_216_152_605, 6_451_600_000),
    unit("mmHg", &["mm[Hg]"], "millimetres of mercury", PRESSURE, 133_322_387_415, 1_000_000_000),
    unit("J", &["joule"], "joules", ENERGY, 1_000_000_000, 1),
    unit("kJ", &["kilojoule"], "kilojoules", ENERGY, 1_000_000_000_000, 1),
    unit("MJ", &["megajoule"], "megajoules", ENERGY, 1_000_000_000_000_000, 1),
    unit("Wh", &["watt hour"], "watt hours", ENERGY, 3_600_000_000_000, 1),
    unit("kWh", &["kilowatt hour"], "kilowatt hours", ENERGY, 3_600_000_000_000_000, 1),
    unit("MWh", &["megawatt hour"], "megawatt hours", ENERGY, 3_600_000_000_000_000_000, 1),
    unit("kcal", &["kilocalorie"], "kilocalories", ENERGY, 4_184_000_000_000, 1),
    unit("W", &["watt"], "watts", POWER, 1_000_000_000, 1),
    unit("kW", &["kilowatt"], "kilowatts", POWER, 1_000_000_000_000, 1),
    unit("MW", &["megawatt"], "megawatts", POWER, 1_000_000_000_000_000, 1),
    unit("°", &["deg", "degree"], "degrees of arc", Dimension::Angle, 1, 1),
    unit("gon", &["grad"], "gons", Dimension::Angle, 9, 10),
    // Its ratio to a degree is no fraction, so nothing is converted from it or to it.
    unit("rad", &["radian"], "radians", Dimension::Radian, 1, 1),
    degrees("°C", &["Cel", "degC", "ºC", "deg C", "celsius", "centigrade"], "degrees Celsius", (1, 0, 1)),
    degrees("°F", &["[degF]", "degF", "ºF", "deg F", "fahrenheit"], "degrees Fahrenheit", (5, -160, 9)),
    degrees("K", &["kelvin"], "kelvins", (100, -27_315, 100)),
    money("EUR", &["€", "euro"], "euros"),
    money("GBP", &["£", "pound sterling"], "pounds sterling"),
    money("USD", &["US$", "us dollar"], "US dollars"),
    money("CHF", &["swiss franc"], "Swiss francs"),
    money("SEK", &[], "Swedish kronor"),
    money("NOK", &[], "Norwegian kroner"),
    money("DKK", &[], "Danish kroner"),
    money("PLN", &["zł"], "Polish zloty"),
    money("CZK", &["Kč"], "Czech koruny"),
    money("HUF", &[], "Hungarian forints"),
    money("JPY", &[], "yen"),
    money("CNY", &["renminbi"], "yuan"),
    money("INR", &["₹"], "Indian rupees"),
    money("AUD", &["A$"], "Australian dollars"),
    money("CAD", &["C$"], "Canadian dollars"),
    money("NZD", &["NZ$"], "New Zealand dollars"),
    money("ZAR", &[], "rand"),
];
