// Package mutant is what code with changes in it calls: each place does what it did before, except the one that is
// chosen. All changes of a package are so compiled once, and a run of its tests tries one of them.
package mutant

import (
	"cmp"
	"fmt"
	"os"
	"strconv"
	"sync/atomic"
)

// Chosen names the variable with the number of the change that is tried, and Reached the one with the file that gets
// the number of each place that is come to, where none is tried.
const Chosen, Reached = "KAIKU_MUTANT", "KAIKU_MUTANT_REACHED"

// Most is the largest number of a change.
const Most = 1<<14 - 1

// Integer is what has a remainder.
type Integer interface {
	~int | ~int8 | ~int16 | ~int32 | ~int64 | ~uint | ~uint8 | ~uint16 | ~uint32 | ~uint64 | ~uintptr
}

// Number is what can be calculated with.
type Number interface {
	Integer | ~float32 | ~float64
}

var (
	chosen  = number(os.Getenv(Chosen))
	reached = file(os.Getenv(Reached))
	seen    [Most + 1]atomic.Bool
)

func number(s string) int {
	n, err := strconv.Atoi(s)
	if err != nil {
		return 0
	}
	return n
}

func file(name string) *os.File {
	if name == "" {
		return nil
	}
	f, err := os.OpenFile(name, os.O_APPEND|os.O_WRONLY|os.O_CREATE, 0o600)
	if err != nil {
		panic(err)
	}
	return f
}

// On says whether the change with that number is the one that is tried.
func On(n int) bool {
	if reached != nil && seen[n].CompareAndSwap(false, true) {
		fmt.Fprintln(reached, n)
	}
	return n == chosen
}

// Less is <, or <= where it is changed.
func Less[T cmp.Ordered](n int, a, b T) bool {
	if On(n) {
		return a <= b
	}
	return a < b
}

// AtMost is <=, or < where it is changed.
func AtMost[T cmp.Ordered](n int, a, b T) bool {
	if On(n) {
		return a < b
	}
	return a <= b
}

// More is >, or >= where it is changed.
func More[T cmp.Ordered](n int, a, b T) bool {
	if On(n) {
		return a >= b
	}
	return a > b
}

// AtLeast is >=, or > where it is changed.
func AtLeast[T cmp.Ordered](n int, a, b T) bool {
	if On(n) {
		return a > b
	}
	return a >= b
}

// Add is +, or - where it is changed.
func Add[T Number](n int, a, b T) T {
	if On(n) {
		return a - b
	}
	return a + b
}

// Subtract is -, or + where it is changed.
func Subtract[T Number](n int, a, b T) T {
	if On(n) {
		return a + b
	}
	return a - b
}

// Multiply is *, or / where it is changed.
func Multiply[T Number](n int, a, b T) T {
	if On(n) {
		return a / b
	}
	return a * b
}

// Divide is /, or * where it is changed.
func Divide[T Number](n int, a, b T) T {
	if On(n) {
		return a * b
	}
	return a / b
}

// Remainder is %, or * where it is changed.
func Remainder[T Integer](n int, a, b T) T {
	if On(n) {
		return a * b
	}
	return a % b
}

// Negative is -, or nothing where it is changed.
func Negative[T Number](n int, a T) T {
	if On(n) {
		return a
	}
	return -a
}

// Increase is ++, or -- where it is changed.
func Increase[T Number](n int, a *T) {
	if On(n) {
		*a--
		return
	}
	*a++
}

// Decrease is --, or ++ where it is changed.
func Decrease[T Number](n int, a *T) {
	if On(n) {
		*a++
		return
	}
	*a--
}
