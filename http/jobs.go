package http

import (
	"context"

	"github.com/danielgtaylor/huma/v2"

	"hermeneus/app/jobs"
	"hermeneus/app/staff"
)

// jobsAPI is what app/jobs offers over HTTP.
func jobsAPI(api huma.API, a *jobs.Jobs) {
	jobAPI(api, a)
}

// jobAPI is how far long work is.
func jobAPI(api huma.API, a *jobs.Jobs) {
	staffCall(
		api,
		op("GET", "/api/staff/jobs/{id}", "read-job", "How far a job is"),
		func(ctx context.Context, who staff.Staff, in *JobID) (*body[jobs.Job], error) {
			return wrap(a.ReadJob(ctx, who, in.ID))
		},
	)
}

// JobID names a job in a path.
type JobID struct {
	ID int64 `path:"id"`
}

// begunJob is a job that was asked for.
type begunJob struct {
	ID int64 `json:"id"`
}
