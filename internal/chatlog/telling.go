package chatlog

// AfterTold does something when all that was appended to a chat so far is told.
func (a *Log) AfterTold(chatID string, do func()) {
	s := a.shardOf(chatID)
	s.toTell(do)
	a.tellNews(s)
}

// toTell notes something to be told when what came before it in the shard is
// told. It is told by the next tellNews.
func (s *shard) toTell(tell func()) {
	s.telling.Lock()
	defer s.telling.Unlock()
	s.news = append(s.news, tell)
}

// tellNews lets somebody else tell what is noted, unless they are at it.
func (a *Log) tellNews(s *shard) {
	s.telling.Lock()
	begin := !s.tells && len(s.news) > 0
	s.tells = s.tells || begin
	s.telling.Unlock()
	if begin {
		a.spread.Go(func() { a.tellAll(s) })
	}
}

// tellOwn tells what is noted if it is just one thing, and lets somebody else tell
// the rest: who has one's own act to tell of is faster than whoever had to wake up.
func (a *Log) tellOwn(s *shard) {
	s.telling.Lock()
	if s.tells || len(s.news) != 1 {
		s.telling.Unlock()
		a.tellNews(s)
		return
	}
	tell := s.news[0]
	s.news, s.tells = nil, true
	s.telling.Unlock()
	tell()
	s.telling.Lock()
	s.tells = false
	s.telling.Unlock()
	a.tellNews(s)
}

func (a *Log) tellAll(s *shard) {
	for {
		s.telling.Lock()
		news := s.news
		s.news = nil
		s.tells = len(news) > 0
		s.telling.Unlock()
		if len(news) == 0 {
			return
		}
		for _, tell := range news {
			tell()
		}
	}
}
