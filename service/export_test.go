package service

// NightDue lets tests ask when a repetition is due.
var NightDue = nightDue
