package http

import (
	"context"

	"github.com/danielgtaylor/huma/v2"

	"hermeneus/app/customers"
	"hermeneus/app/staff"
)

// customersAPI is what app/customers offers over HTTP.
func customersAPI(api huma.API, a *customers.Customers) {
	groupAPI(api, a)
}

// groupAPI keeps the named groups of customers.
func groupAPI(api huma.API, a *customers.Customers) {
	type Naming struct {
		Name string `json:"name"`
	}
	type groupRenaming struct {
		GroupKey
		Body Naming
	}
	type looking struct {
		GroupKey
		Words string `query:"words" maxLength:"200"`
		From  int    `query:"from" minimum:"0" maximum:"1000000"`
	}
	type joining struct {
		GroupKey
		Body struct {
			Email string `json:"email" doc:"Of the customer" maxLength:"200"`
		}
	}
	type leaving struct {
		GroupKey
		ID int64 `path:"id"`
	}
	staffCall(
		api,
		op("GET", "/api/staff/groups", "list-groups", "The named groups of customers"),
		func(ctx context.Context, _ staff.Staff, _ *none) (*body[[]customers.Group], error) {
			return wrap(a.Groups(ctx))
		},
	)
	staffCall(
		api,
		op("POST", "/api/staff/groups", "add-group", "Add a group of customers"),
		func(ctx context.Context, who staff.Staff, in *body[Naming]) (*body[customers.Group], error) {
			return wrap(a.AddGroup(ctx, who, in.Body.Name))
		},
	)
	staffCall(
		api,
		op("PUT", "/api/staff/groups/{key}", "do-rename-group", "Give a group another name"),
		func(ctx context.Context, who staff.Staff, in *groupRenaming) (*none, error) {
			return nil, a.RenameGroup(ctx, who, in.Key, in.Body.Name)
		},
	)
	staffCall(
		api,
		op("DELETE", "/api/staff/groups/{key}", "drop-group", "Take a group away that nothing is for"),
		func(ctx context.Context, who staff.Staff, in *GroupKey) (*none, error) {
			return nil, a.DropGroup(ctx, who, in.Key)
		},
	)
	staffCall(
		api,
		op("GET", "/api/staff/groups/{key}/members", "list-members", "The customers in a group"),
		func(ctx context.Context, who staff.Staff, in *looking) (*body[list[customers.Member]], error) {
			return wrapList(a.Members(ctx, who, in.Key, in.Words, in.From))
		},
	)
	staffCall(
		api,
		op("POST", "/api/staff/groups/{key}/members", "do-add-member", "Put a customer into a group"),
		func(ctx context.Context, who staff.Staff, in *joining) (*none, error) {
			return nil, a.AddMember(ctx, who, in.Key, in.Body.Email)
		},
	)
	staffCall(
		api,
		op("DELETE", "/api/staff/groups/{key}/members/{id}", "drop-member", "Take a customer out of a group"),
		func(ctx context.Context, who staff.Staff, in *leaving) (*none, error) {
			return nil, a.RemoveMember(ctx, who, in.Key, in.ID)
		},
	)
}

// GroupKey names a group of customers in a path.
type GroupKey struct {
	Key string `path:"key" maxLength:"40"`
}
