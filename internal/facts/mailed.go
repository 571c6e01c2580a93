package facts

// Mailed is a report as a mail tells it.
type Mailed struct {
	Every   string `json:"every"` // day, week or month
	From    string `json:"from"`  // days
	To      string `json:"to"`
	Address string `json:"address"` // of the page, behind the ?
	Now     Brief  `json:"now"`
	Before  Brief  `json:"before"`
	ID      string `json:"id"` // the same for each try
}

// Brief is what a mail tells of a period. Times are in seconds.
type Brief struct {
	Chats      int64    `json:"chats"`
	Answered   int64    `json:"answered"`
	Missed     int64    `json:"missed"`
	Messages   int64    `json:"messages"`
	InTarget   int64    `json:"inTarget"`
	InTargetOf int64    `json:"inTargetOf"`
	Wait       *float64 `json:"wait"`
	First      *float64 `json:"first"`
	Rating     *float64 `json:"rating"`
	Rated      int64    `json:"rated"`
}
