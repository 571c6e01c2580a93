// Package web holds the built interface, the demo site and their fonts, for
// the server to serve.
package web

import (
	"embed"
	"io/fs"
)

//go:embed all:dist all:site all:fonts
var files embed.FS

// Dist returns the built files: console, panel and loader, each in a folder of
// its own. A folder is missing when the interface was not built.
func Dist() fs.FS { return folder("dist") }

// Site returns the pages of the demo site.
func Site() fs.FS { return folder("site") }

// Fonts returns the fonts that the interface and the demo site share.
func Fonts() fs.FS { return folder("fonts") }

func folder(name string) fs.FS {
	sub, err := fs.Sub(files, name)
	if err != nil {
		panic(err) // the names are constants
	}
	return sub
}
