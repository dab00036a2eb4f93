package instance

// Name is somebody or something by id and name.
type Name struct {
	ID   int64  `json:"id"`
	Name string `json:"name"`
}

// IDOrZero is the id, 0 for none.
func IDOrZero(id *int64) int64 {
	if id == nil {
		return 0
	}
	return *id
}
