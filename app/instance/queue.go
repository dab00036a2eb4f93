package instance

import (
	"context"
	"fmt"
	"log/slog"
	"sync"
	"time"

	"github.com/jackc/pgx/v5/pgxpool"
	"github.com/riverqueue/river"
	"github.com/riverqueue/river/riverdriver/riverdatabasesql"
)

// errand is a job of the queue: something registered under a name, that any instance may do.
type errand struct {
	Name string `json:"name"`
}

// Kind names this kind of job in the queue.
func (errand) Kind() string { return "errand" }

// Queued registers work that is done by a job of the queue, each second, by whichever instance takes it, as long as
// there is more. A job that ends in the middle leaves nothing half done: the next goes on.
func (a *Instance) Queued(name string, do func(ctx context.Context) (more bool, err error)) {
	a.errands[name] = do
}

// errandTime bounds how long one job goes on.
const errandTime = 30 * time.Second

// errands does what the queue asks for.
type errands struct {
	river.WorkerDefaults[errand]
	do   map[string]func(context.Context) (bool, error)
	busy sync.Map // names of those that are being done
}

// Timeout is how long one job goes on at most.
func (w *errands) Timeout(*river.Job[errand]) time.Duration { return 2 * errandTime }

// Work does one job. While it goes on, the jobs of the seconds after it have nothing to do.
func (w *errands) Work(ctx context.Context, job *river.Job[errand]) error {
	do := w.do[job.Args.Name]
	if _, busy := w.busy.LoadOrStore(job.Args.Name, true); busy {
		return nil
	}
	defer w.busy.Delete(job.Args.Name)
	until := time.After(errandTime)
	for do != nil {
		more, err := do(ctx)
		if err != nil {
			return fmt.Errorf("doing %s: %w", job.Args.Name, err)
		}
		select {
		case <-until:
			return nil
		default:
		}
		if !more {
			return nil
		}
	}
	return nil
}

// startQueue takes jobs from the queue until the context ends. A listener of its own tells when there are any.
func (a *Instance) startQueue(ctx context.Context, database string) (wait func(), err error) {
	if len(a.errands) == 0 {
		return func() {}, nil
	}
	pool, err := a.DB.DB()
	if err != nil {
		return nil, err
	}
	config, err := pgxpool.ParseConfig(database)
	if err != nil {
		return nil, fmt.Errorf("reading the address of the database: %w", err)
	}
	config.MaxConns = 2
	listener, err := pgxpool.NewWithConfig(ctx, config)
	if err != nil {
		return nil, fmt.Errorf("listening for jobs: %w", err)
	}
	workers := river.NewWorkers()
	river.AddWorker(workers, &errands{do: a.errands})
	var regular []*river.PeriodicJob
	for name := range a.errands {
		regular = append(regular, river.NewPeriodicJob(
			river.PeriodicInterval(time.Second),
			func() (river.JobArgs, *river.InsertOpts) { return errand{name}, &river.InsertOpts{MaxAttempts: 1} },
			&river.PeriodicJobOpts{RunOnStart: true},
		))
	}
	client, err := river.NewClient(riverdatabasesql.NewWithPgxListener(pool, listener), &river.Config{
		Queues:                      map[string]river.QueueConfig{river.QueueDefault: {MaxWorkers: 2}},
		Workers:                     workers,
		PeriodicJobs:                regular,
		Logger:                      slog.New(quiet{slog.Default().Handler()}),
		CompletedJobRetentionPeriod: 10 * time.Minute,
		DiscardedJobRetentionPeriod: 24 * time.Hour,
		CancelledJobRetentionPeriod: time.Hour,
		RescueStuckJobsAfter:        5 * time.Minute,
	})
	if err != nil {
		listener.Close()
		return nil, fmt.Errorf("making the queue: %w", err)
	}
	if err := client.Start(ctx); err != nil {
		listener.Close()
		return nil, fmt.Errorf("starting the queue: %w", err)
	}
	return func() {
		<-client.Stopped()
		listener.Close()
	}, nil
}

// quiet passes on only what somebody must see.
type quiet struct{ slog.Handler }

// Enabled reports whether a line of this level is passed on.
func (quiet) Enabled(_ context.Context, level slog.Level) bool { return level >= slog.LevelError }
