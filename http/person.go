package http

import (
	"context"

	"github.com/danielgtaylor/huma/v2"

	"hermeneus/app/person"
	"hermeneus/app/staff"
)

// personAPI is what app/person offers over HTTP.
func personAPI(api huma.API, a *person.Persons) {
	type forgetting struct {
		ID int64 `path:"id"`
	}
	staffCall(
		api,
		op("DELETE", "/api/staff/customers/{id}", "forget-customer", "Forget a customer who asked for it"),
		func(ctx context.Context, who staff.Staff, in *forgetting) (*none, error) {
			return nil, a.ForgetCustomer(ctx, who, in.ID)
		},
	)
}
