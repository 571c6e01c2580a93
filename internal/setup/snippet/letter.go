package snippet

import (
	"fmt"
	"strings"
)

// Letter returns what is mailed to whoever keeps a site: what to do, without any word of
// the trade that they need not know.
func Letter(from, name, base, key string, sites []string) string {
	where := "the site"
	if len(sites) > 0 {
		where = strings.Join(sites, ", ")
	}
	return fmt.Sprintf(`Hello,

%s asks you to put the chat %q on %s. It takes one line:

    %s

1. Paste it right before the closing </body> tag of each page. In most systems
   there is one template for all pages, or a field for "code before </body>".
2. Save, and open a page of the site. The chat shows at its lower edge within a
   few seconds, if it is switched on.
3. Tell %s that it is done. They see the first visit, and can check the page.

The line loads after everything else and does not touch the page's own styles.

Only if the site has a content security policy, add:

    %s

The chat's own page, for mails and signatures: %s/panel/%s
`, from, name, where, Line(base, key), from, strings.Join(Policy(base), "\n    "), base, key)
}
