package widget_test

import (
	"testing"

	"github.com/stretchr/testify/require"

	"stoop/core/widget"
)

func TestWhatIsWrongWithAWidget(t *testing.T) {
	good := widget.Widget{Name: "Site", Title: "Ask us", Colour: "#9c3f27", Sites: []string{"https://www.example.com", "http://localhost:8081"}, ReachBy: widget.ByEmail, MessageLimit: 2000}
	require.Empty(t, good.Check())
	for field, spoil := range map[string]func(*widget.Widget){
		"name":         func(w *widget.Widget) { w.Name = "" },
		"title":        func(w *widget.Widget) { w.Title = "" },
		"colour":       func(w *widget.Widget) { w.Colour = "red" },
		"reachBy":      func(w *widget.Widget) { w.ReachBy = "pigeon" },
		"messageLimit": func(w *widget.Widget) { w.MessageLimit = 99 },
		"sites":        func(w *widget.Widget) { w.Sites = []string{"https://www.example.com/shop"} },
	} {
		bad := good
		spoil(&bad)
		require.Len(t, bad.Check(), 1, field)
		require.Equal(t, field, bad.Check()[0].Field)
	}
}

// An origin as RFC 6454 has it: scheme, host, and a port if it is not the usual
// one. Whatever stands behind would never equal what browsers send.
func TestASiteIsAnOrigin(t *testing.T) {
	for address, is := range map[string]bool{
		"https://www.example.com": true, "http://127.0.0.1:8081": true, "https://example.com/": false, "https://example.com?x=1": false,
		"https://example.com#top": false, "https://me@example.com": false, "ftp://example.com": false, "www.example.com": false, "": false,
	} {
		require.Equal(t, is, widget.IsSite(address), address)
	}
}
