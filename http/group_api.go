package http

import (
	"context"

	"github.com/danielgtaylor/huma/v2"

	"hermeneus/app/customers"
	"hermeneus/app/staff"
)

// GroupKey names a group of customers in a path.
type GroupKey struct {
	Key string `path:"key" maxLength:"40"`
}

// groupAPI keeps the named groups of customers.
func (s *server) groupAPI(api huma.API) {
	type Naming struct {
		Name string `json:"name"`
	}
	staffCall(
		api,
		op("GET", "/api/staff/groups", "list-groups", "The named groups of customers"),
		func(ctx context.Context, _ staff.Staff, _ *none) (*body[[]customers.Group], error) {
			return wrap(s.app.Customers.Groups(ctx))
		},
	)
	staffCall(
		api,
		op("POST", "/api/staff/groups", "add-group", "Add a group of customers"),
		func(ctx context.Context, who staff.Staff, in *body[Naming]) (*body[customers.Group], error) {
			return wrap(s.app.Customers.AddGroup(ctx, who, in.Body.Name))
		},
	)
	type groupRenaming struct {
		GroupKey
		Body Naming
	}
	staffCall(
		api,
		op("PUT", "/api/staff/groups/{key}", "do-rename-group", "Give a group another name"),
		func(ctx context.Context, who staff.Staff, in *groupRenaming) (*none, error) {
			return nil, s.app.Customers.RenameGroup(ctx, who, in.Key, in.Body.Name)
		},
	)
	staffCall(
		api,
		op("DELETE", "/api/staff/groups/{key}", "drop-group", "Take a group away that nothing is for"),
		func(ctx context.Context, who staff.Staff, in *GroupKey) (*none, error) {
			return nil, s.app.Customers.DropGroup(ctx, who, in.Key)
		},
	)
	type looking struct {
		GroupKey
		Words string `query:"words" maxLength:"200"`
		From  int    `query:"from" minimum:"0" maximum:"1000000"`
	}
	staffCall(
		api,
		op("GET", "/api/staff/groups/{key}/members", "list-members", "The customers in a group"),
		func(ctx context.Context, who staff.Staff, in *looking) (*body[list[customers.Member]], error) {
			return wrapList(s.app.Customers.Members(ctx, who, in.Key, in.Words, in.From))
		},
	)
	type joining struct {
		GroupKey
		Body struct {
			Email string `json:"email" doc:"Of the customer" maxLength:"200"`
		}
	}
	staffCall(
		api,
		op("POST", "/api/staff/groups/{key}/members", "do-add-member", "Put a customer into a group"),
		func(ctx context.Context, who staff.Staff, in *joining) (*none, error) {
			return nil, s.app.Customers.AddMember(ctx, who, in.Key, in.Body.Email)
		},
	)
	type leaving struct {
		GroupKey
		ID int64 `path:"id"`
	}
	staffCall(
		api,
		op("DELETE", "/api/staff/groups/{key}/members/{id}", "drop-member", "Take a customer out of a group"),
		func(ctx context.Context, who staff.Staff, in *leaving) (*none, error) {
			return nil, s.app.Customers.RemoveMember(ctx, who, in.Key, in.ID)
		},
	)
}
