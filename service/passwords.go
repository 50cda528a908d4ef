package service

import (
	_ "embed" // the list
	"strings"
	"unicode"

	"kaiku/store"
)

// commonPasswords lists the beginnings of passwords that are tried first by whoever guesses: one in each line, in
// small letters.
//
//go:embed passwords.txt
var commonPasswords string

var common = func() map[string]bool {
	out := map[string]bool{}
	for line := range strings.Lines(commonPasswords) {
		out[strings.TrimSpace(line)] = true
	}
	return out
}()

// passwordFault returns the code of what is wrong with a new password, or "": a common one, also with digits and
// signs around it or with digits for letters; fewer than five different characters; one's own name in it.
func passwordFault(password string, p store.Person) string {
	low := strings.ToLower(password)
	letters := strings.NewReplacer("0", "o", "1", "i", "3", "e", "4", "a", "5", "s", "7", "t", "@", "a", "$", "s", "!", "i").Replace
	bare := func(s string) string { return strings.TrimFunc(s, func(r rune) bool { return !unicode.IsLetter(r) }) }
	for _, form := range []string{low, letters(low), bare(low), letters(bare(low))} {
		if common[form] {
			return "password-common"
		}
	}
	different := map[rune]bool{}
	for _, r := range low {
		different[r] = true
	}
	if len(different) < 5 {
		return "password-common"
	}
	rest := low
	for _, word := range append(strings.Fields(strings.ToLower(p.Name)), strings.ToLower(p.Login), "kaiku") {
		if len(word) > 2 {
			rest = strings.ReplaceAll(rest, word, "")
		}
	}
	if len(rest) < len(low)-2 && len([]rune(rest)) < 6 {
		return "password-named"
	}
	return ""
}
