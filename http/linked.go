package http

import (
	"encoding/json"
	"html/template"
	"time"

	"hermeneus/app/helpcentre"
)

// Linked data describes a page in the vocabulary of schema.org, as JSON-LD.

// inScript makes a value fit for a script element: json.Marshal escapes <, > and &, so
// that the element cannot be left.
func inScript(value any) template.JS {
	raw, err := json.Marshal(value)
	if err != nil {
		return ""
	}
	return template.JS(raw)
}

// linkedArticle describes an article, and where it stands.
func linkedArticle(page helpcentre.Page, publisher, home, address string) template.JS {
	crumbs := []map[string]any{
		{"@type": "ListItem", "position": 1, "name": publisher, "item": home},
		{"@type": "ListItem", "position": 2, "name": page.Category.Name},
		{"@type": "ListItem", "position": 3, "name": page.Title, "item": address},
	}
	return inScript(map[string]any{"@context": "https://schema.org", "@graph": []any{
		map[string]any{
			"@type":            "TechArticle",
			"headline":         page.Title,
			"description":      page.Description,
			"dateModified":     page.LiveSince.Format(time.RFC3339),
			"inLanguage":       page.Language,
			"mainEntityOfPage": address,
			"identifier":       page.Reference,
			"articleSection":   page.Category.Name,
			"publisher":        map[string]any{"@type": "Organization", "name": publisher},
		},
		map[string]any{"@type": "BreadcrumbList", "itemListElement": crumbs},
	}})
}

// linkedHome describes a help centre, and how it is searched.
func linkedHome(name, home, language string) template.JS {
	return inScript(map[string]any{
		"@context": "https://schema.org", "@type": "WebSite", "name": name, "url": home, "inLanguage": language,
		"potentialAction": map[string]any{
			"@type": "SearchAction",
			"target": map[string]any{
				"@type":       "EntryPoint",
				"urlTemplate": home + "/search?q={search_term_string}",
			},
			"query-input": "required name=search_term_string",
		},
	})
}
