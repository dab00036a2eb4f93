package library

import (
	"fmt"
	"strings"

	"hermeneus/app/evidence"
)

// inSite tells articles a of a site from others, as SQL with one argument.
const inSite = `(NOT EXISTS (SELECT 1 FROM site_categories WHERE site_id = @site) OR a.category_id IN (
	WITH RECURSIVE shown AS (SELECT category_id AS id FROM site_categories WHERE site_id = @site
		UNION SELECT c.id FROM categories c JOIN shown ON c.parent_id = shown.id) SELECT id FROM shown))`

// SiteFilter is inSite for a visitor's site; a visitor of none sees all.
func SiteFilter(id int64) string {
	if id == 0 {
		return "true"
	}
	return strings.ReplaceAll(inSite, "@site", fmt.Sprint(id))
}

// FilterOf tells articles a of the visitor's help centre from others, as SQL.
func FilterOf(v evidence.Visitor) string {
	if v.Whole {
		return "true"
	}
	return SiteFilter(v.Site)
}
