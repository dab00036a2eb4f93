// Package house is the order of the rooms: which package may stand on which.
// It promises one table, that the test over the whole module reads and the picture is drawn from.
// It may not be imported by the application.
package house

// Order lists the rooms, from what stands on nothing. A room imports only rooms before it.
// Rooms named with a slash at the end are all the packages below.
var Order = []string{
	// The rules and the computation: pure.
	"core/role",
	"core/audience",
	"core/look",
	"core/pace",
	"core/hours",
	"core/redact",
	"core/form",
	"core/markup",
	"core/article",
	"core/compare",
	"core/prose",
	"core/review",
	"core/search",
	"core/outcome",
	"core/flow",
	"core/exchange",

	// The tables, and the front end as it is built.
	"store",
	"web",

	// The use cases, by area.
	"app/problem",
	"app/instance",
	"app/staff",
	"app/trail",
	"app/keeping",
	"app/jobs",
	"app/notify",
	"app/evidence",
	"app/customers",
	"app/accounts",
	"app/texts",
	"app/library",
	"app/sites",
	"app/forms",
	"app/review",
	"app/outcomes",
	"app/search",
	"app/helpcentre",
	"app/lists",
	"app/writing",
	"app/exchange",
	"app/hours",
	"app/flows",
	"app/conversations",
	"app/requests",
	"app/person",
	"app/desk",
	"app",

	// The doors, the demo's world and the binary.
	"standin",
	"http",
	"demo",
	"app/apptest",
	"cmd/hermeneus",
	"bench/",
	"house/",
}

// Barred names rooms that a room may not import although they stand before it. What ends in a
// slash is all of what lies below.
var Barred = map[string][]string{
	"http/":    {"store"},
	"store":    {"core/", "web"},
	"standin":  {"core/", "store", "app/", "web"},
	"app/":     {"web"},
	"web":      {"core/", "store"},
	"app/desk": {"web"},
}

// Outside names what rooms may not import of others' packages; parts of their paths.
var Outside = map[string][]string{
	"core/": {"gofiber", "gorm.io", "huma", "database/sql", "jackc/pgx", "net/http", "math/rand", "os/exec"},
	"app/":  {"gofiber/fiber/v2\"", "huma"},
	"http/": {"gorm.io", "jackc/pgx", "database/sql"},
}

// Reaches are the queries over tables of an area that stands above, each with why.
var Reaches = map[string]string{
	"library/flowuses.go flows":         "whoever narrows an article must know which live flows show it",
	"library/flowuses.go flow_versions": "likewise",
	"flows/flows.go conversations":      "how many go on in a flow is said in the list of them",
	"flows/versions.go conversations":   "likewise",
	"review/paths.go flows":             "a path through which a flow goes is in use",
	"hours/standing.go conversations":   "how many chats an agent holds says whether the team is free",
	"hours/settings.go conversations":   "likewise",
	"review/comments.go messages":       "whoever answered a customer may comment on the article that was made of it",
}

// Place gives the place of a room in the order, counted from 0, and whether it has one.
func Place(room string) (int, bool) {
	best, place := -1, 0
	for i, r := range Order {
		whole := r == room
		below := len(r) > 1 && r[len(r)-1] == '/' && len(room) >= len(r)-1 && (room + "/")[:len(r)] == r
		if (whole || below) && len(r) > best {
			best, place = len(r), i
		}
	}
	return place, best >= 0
}
