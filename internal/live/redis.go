package live

import (
	"context"
	"fmt"
	"log/slog"
	"maps"
	"slices"
	"sync"
	"sync/atomic"
	"time"

	"github.com/centrifugal/centrifuge"
	"github.com/redis/rueidis"
)

// shared makes the hubs of several servers one, through Redis. While Redis is
// away each server goes on for its own browsers: what the others said meanwhile
// is found in the log when it is back; see OnGap.
type shared struct {
	*centrifuge.RedisBroker
	presence *centrifuge.RedisPresenceManager
	client   rueidis.Client
	log      *slog.Logger
	handler  centrifuge.BrokerEventHandler
	away     atomic.Bool

	mu     sync.Mutex
	wanted map[string]bool // channels that could not be subscribed while it was away
	gap    func(since time.Time)
	ctx    context.Context // ends when the hub closes
	stop   context.CancelFunc
	done   sync.WaitGroup
}

const (
	// aliveChannel is listened to, only to learn that the connection broke.
	aliveChannel = "stoop:alive"
	// redisPatience bounds each word with Redis.
	redisPatience = 500 * time.Millisecond
	askEvery      = 250 * time.Millisecond
	// settled is how long after Redis is back the broker's own connections may take
	// to be back too.
	settled = 2 * time.Second
)

func newShared(hub *centrifuge.Node, address string, log *slog.Logger) (*shared, error) {
	shard, err := centrifuge.NewRedisShard(hub, centrifuge.RedisShardConfig{Address: address, ConnectTimeout: redisPatience, IOTimeout: 4 * redisPatience})
	if err != nil {
		return nil, fmt.Errorf("STOOP_REDIS_URL: %w", err)
	}
	broker, err := centrifuge.NewRedisBroker(hub, centrifuge.RedisBrokerConfig{Shards: []*centrifuge.RedisShard{shard}, Prefix: "stoop"})
	if err != nil {
		return nil, fmt.Errorf("STOOP_REDIS_URL: %w", err)
	}
	presence, err := centrifuge.NewRedisPresenceManager(hub, centrifuge.RedisPresenceManagerConfig{Shards: []*centrifuge.RedisShard{shard}, Prefix: "stoop"})
	if err != nil {
		return nil, fmt.Errorf("STOOP_REDIS_URL: %w", err)
	}
	options, err := rueidis.ParseURL(address)
	if err != nil {
		return nil, fmt.Errorf("STOOP_REDIS_URL %q is no address like redis://127.0.0.1:6379: %w", address, err)
	}
	options.DisableCache, options.Dialer.Timeout, options.ConnWriteTimeout = true, redisPatience, 2*redisPatience
	client, err := rueidis.NewClient(options)
	if err != nil {
		return nil, fmt.Errorf("STOOP_REDIS_URL: Redis does not answer: %w", err)
	}
	s := &shared{RedisBroker: broker, presence: presence, client: client, log: log, wanted: map[string]bool{}}
	ctx, cancel := context.WithCancel(context.Background())
	s.ctx, s.stop = ctx, cancel
	s.done.Go(func() { s.watch(ctx) })
	return s, nil
}

func (s *shared) close() {
	s.stop()
	s.done.Wait()
	s.client.Close()
}

// watch notices when Redis goes, until the context ends.
func (s *shared) watch(ctx context.Context) {
	for ctx.Err() == nil {
		// It returns when the connection breaks, and never while all is well.
		err := s.client.Receive(ctx, s.client.B().Subscribe().Channel(aliveChannel).Build(), func(rueidis.PubSubMessage) {})
		if ctx.Err() != nil || !s.lost(ctx, err) && !wait(ctx, askEvery) {
			return
		}
	}
}

// lost takes note that Redis is away and mends what that broke, when it is back.
// It reports whether that was news.
func (s *shared) lost(ctx context.Context, err error) bool {
	if s.away.Swap(true) {
		return false
	}
	since := time.Now()
	s.log.Error("Redis is away; this server goes on for its own browsers", "error", err)
	s.done.Go(func() {
		for !s.answers(ctx) {
			if !wait(ctx, askEvery) {
				return
			}
		}
		s.away.Store(false)
		s.log.Info("Redis is back", "after", time.Since(since).Round(time.Millisecond).String())
		s.mend(ctx, since)
	})
	return true
}

// mend follows again what could not be followed, and lets be told what was
// missed: at once, and once more when all connections are surely back.
func (s *shared) mend(ctx context.Context, since time.Time) {
	for _, pause := range []time.Duration{0, settled} {
		if !wait(ctx, pause) {
			return
		}
		for !s.subscribeWanted() {
			if !wait(ctx, askEvery) {
				return
			}
		}
		s.mu.Lock()
		gap := s.gap
		s.mu.Unlock()
		if gap != nil {
			gap(since)
		}
	}
}

// subscribeWanted reports whether all is followed that should be.
func (s *shared) subscribeWanted() bool {
	s.mu.Lock()
	channels := slices.Collect(maps.Keys(s.wanted))
	s.mu.Unlock()
	all := true
	for _, c := range channels {
		if s.RedisBroker.Subscribe(c) != nil {
			all = false
			continue
		}
		s.mu.Lock()
		delete(s.wanted, c)
		s.mu.Unlock()
	}
	return all
}

func (s *shared) answers(ctx context.Context) bool {
	ctx, cancel := context.WithTimeout(ctx, redisPatience)
	defer cancel()
	return s.client.Do(ctx, s.client.B().Ping().Build()).Error() == nil
}

func wait(ctx context.Context, long time.Duration) bool {
	select {
	case <-ctx.Done():
		return false
	case <-time.After(long):
		return true
	}
}

// RegisterBrokerEventHandler implements centrifuge.Broker.
func (s *shared) RegisterBrokerEventHandler(h centrifuge.BrokerEventHandler) error {
	s.handler = h
	return s.RedisBroker.RegisterBrokerEventHandler(h)
}

// Publish implements centrifuge.Broker: to all servers, or to this one's browsers
// while Redis is away.
func (s *shared) Publish(channel string, data []byte, o centrifuge.PublishOptions) (centrifuge.PublishResult, error) {
	if !s.away.Load() {
		result, err := s.RedisBroker.Publish(channel, data, o)
		if err == nil {
			return result, nil
		}
		s.lost(s.ctx, err) // the others have not got it, either
	}
	return centrifuge.PublishResult{}, s.near(channel, data)
}

// near publishes to this server's browsers alone.
func (s *shared) near(channel string, data []byte) error {
	return s.handler.HandlePublication(channel, &centrifuge.Publication{Data: data, Time: time.Now().UnixMilli()}, centrifuge.StreamPosition{}, false, nil)
}

// Subscribe implements centrifuge.Broker. Whoever comes while Redis is away is let
// in; what they follow is subscribed when it is back.
func (s *shared) Subscribe(channels ...string) error {
	err := s.RedisBroker.Subscribe(channels...)
	if err == nil || !s.away.Load() {
		return err // who is refused connects again
	}
	s.mu.Lock()
	defer s.mu.Unlock()
	for _, c := range channels {
		s.wanted[c] = true
	}
	return nil
}

// Unsubscribe implements centrifuge.Broker.
func (s *shared) Unsubscribe(channels ...string) error {
	s.mu.Lock()
	for _, c := range channels {
		delete(s.wanted, c)
	}
	s.mu.Unlock()
	err := s.RedisBroker.Unsubscribe(channels...)
	if s.away.Load() {
		return nil // what is not there follows nothing
	}
	return err
}

// Presence of browsers, over all servers. While Redis is away it is not known, and
// its hub counts those of this server; they are entered again within seconds.

// AddPresence implements centrifuge.PresenceManager.
func (s *shared) AddPresence(channel, clientID string, info *centrifuge.ClientInfo) error {
	if err := s.presence.AddPresence(channel, clientID, info); err != nil && !s.away.Load() {
		s.log.Warn("a browser's presence could not be noted yet", "error", err)
	}
	return nil
}

// RemovePresence implements centrifuge.PresenceManager.
func (s *shared) RemovePresence(channel, clientID, userID string) error {
	if err := s.presence.RemovePresence(channel, clientID, userID); err != nil && !s.away.Load() {
		s.log.Warn("a browser's end could not be noted; it is forgotten within a minute", "error", err)
	}
	return nil
}

// Presence implements centrifuge.PresenceManager.
func (s *shared) Presence(channel string) (map[string]*centrifuge.ClientInfo, error) {
	return s.presence.Presence(channel)
}

// PresenceStats implements centrifuge.PresenceManager.
func (s *shared) PresenceStats(channel string) (centrifuge.PresenceStats, error) {
	return s.presence.PresenceStats(channel)
}
