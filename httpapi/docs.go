package httpapi

import (
	"html/template"
	"maps"
	"net/http"
	"slices"

	"github.com/labstack/echo/v5"

	"kaiku/wording"
)

type errorRow struct {
	Code string
	wording.Error
}

var errorsPage = template.Must(template.New("errors").Parse(`<!doctype html>
<html lang="en"><meta charset="utf-8"><meta name="viewport" content="width=device-width, initial-scale=1"><title>Errors · Kaiku</title>
<h1>Errors</h1>
<p>Every error from the API has one of these codes. Words in braces are placeholders.</p>
<dl>{{range .}}<dt id="{{.Code}}"><strong>{{.Code}}</strong>{{if .Status}}, status {{.Status}}{{end}}: {{.Title}}</dt><dd>{{.Sentence}} {{.Remedy}}</dd>
{{end}}</dl></html>
`))

// errorDocs describes every error; the type of a problem points here.
func (s *Server) errorDocs(c *echo.Context) error {
	var rows []errorRow
	for _, code := range slices.Sorted(maps.Keys(wording.Errors)) {
		rows = append(rows, errorRow{code, wording.Errors[code]})
	}
	c.Response().Header().Set("Content-Type", "text/html; charset=utf-8")
	c.Response().WriteHeader(http.StatusOK)
	return errorsPage.Execute(c.Response(), rows)
}
