package instance

import (
	"strings"
)

// PageSize is how many rows a list gives at once.
const PageSize = 50

// lastPage is as far as anybody pages.
const lastPage = 1_000_000

// Offset is how many entries stand on the pages before one.
func Offset(page int) int { return (min(max(page, 1), lastPage) - 1) * PageSize }

// EscapeLike takes the meaning out of the wildcards of LIKE.
func EscapeLike(words string) string {
	return strings.NewReplacer(`\`, `\\`, `%`, `\%`, `_`, `\_`).Replace(words)
}
