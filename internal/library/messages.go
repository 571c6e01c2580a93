package library

// LibraryMoved asks a console to look at the Library again, if it shows it.
type LibraryMoved struct {
	Type string `json:"type" enum:"library"`
}
