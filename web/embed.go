// Package web holds the built interface, for the server to serve.
package web

import (
	"embed"
	"io/fs"
)

//go:embed all:dist
var dist embed.FS

// Dist returns the built files: console, panel and loader, each in a folder of
// its own. A folder is missing when the interface was not built.
func Dist() fs.FS {
	sub, err := fs.Sub(dist, "dist")
	if err != nil {
		panic(err) // the name is a constant
	}
	return sub
}

//go:embed all:site
var site embed.FS

// Site returns the pages of the demo site.
func Site() fs.FS {
	sub, err := fs.Sub(site, "site")
	if err != nil {
		panic(err) // the name is a constant
	}
	return sub
}

//go:embed all:fonts
var fonts embed.FS

// Fonts returns the fonts that the interface and the demo site share.
func Fonts() fs.FS {
	sub, err := fs.Sub(fonts, "fonts")
	if err != nil {
		panic(err) // the name is a constant
	}
	return sub
}
