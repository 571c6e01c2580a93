package view

import (
	"net/url"

	"stoop/core/chat"
	"stoop/internal/files"
)

// FileView is a shared file.
type FileView struct {
	ID       string `json:"id"`
	Name     string `json:"name"`
	Type     string `json:"type" doc:"Media type, as found in the content"`
	Kind     string `json:"kind" enum:"picture,pdf,video,sound,text,document,archive"`
	Size     int64  `json:"size" doc:"In bytes"`
	Width    int    `json:"width,omitempty"`
	Height   int    `json:"height,omitempty"`
	Voice    bool   `json:"voice,omitempty" doc:"Recorded while writing"`
	Gone     bool   `json:"gone,omitempty" doc:"It was kept as long as was set, and cannot be opened any more"`
	URL      string `json:"url"`
	ThumbURL string `json:"thumbUrl,omitempty" doc:"For pictures: a small one"`
}

// File returns a shared file as the team sees it.
func File(f chat.File) *FileView {
	v := &FileView{
		ID: f.ID, Name: f.Name, Type: f.Type, Kind: string(files.KindOf(f.Type)), Size: f.Size, Width: f.Width, Height: f.Height, Voice: f.Voice, Gone: f.Gone,
		URL: "/files/" + f.ID + "/" + url.PathEscape(f.Name),
	}
	if f.Gone {
		v.Kind = string(files.Document) // nothing is left to be shown or played
	} else if files.Shown(f.Type) {
		v.ThumbURL = v.URL + "?small=1"
	}
	return v
}

// Signed returns a file's view with addresses that open it without a session.
func (vs *Views) Signed(v FileView) *FileView {
	proof := vs.Key.Proof("file", v.ID)
	v.URL += "?for=" + proof
	if v.ThumbURL != "" {
		v.ThumbURL += "&for=" + proof
	}
	return &v
}

// ChatFile returns what a chat's log keeps of a file.
func ChatFile(f files.File) chat.File {
	return chat.File{ID: f.ID, Name: f.Name, Type: f.Type, Size: f.Size, Width: f.Width, Height: f.Height, Voice: f.Voice}
}
