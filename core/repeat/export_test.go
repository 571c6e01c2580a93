package repeat

// TimesPlus is a hash function of the family, for its test.
var TimesPlus = timesPlus
