package store

import (
	"database/sql/driver"
	"fmt"
	"sync"

	"github.com/jackc/pgx/v5/pgtype"
)

// Strings is a column or an argument of the type text[].
type Strings []string

// Numbers is one of the type bigint[].
type Numbers []int64

// Floats is one of the type real[].
type Floats []float32

// arrays holds what reads and writes arrays; one of them serves one caller at a time.
var arrays = sync.Pool{New: func() any { return pgtype.NewMap() }}

// Scan reads an array as the database writes it.
func (a *Strings) Scan(src any) error { return scanArray((*[]string)(a), src) }

// Scan reads an array as the database writes it.
func (a *Numbers) Scan(src any) error { return scanArray((*[]int64)(a), src) }

// Scan reads an array as the database writes it.
func (a *Floats) Scan(src any) error { return scanArray((*[]float32)(a), src) }

// Value writes an array as the database reads it; NULL for nil.
func (a Strings) Value() (driver.Value, error) { return arrayValue(pgtype.TextArrayOID, []string(a)) }

// Value writes an array as the database reads it; NULL for nil.
func (a Numbers) Value() (driver.Value, error) { return arrayValue(pgtype.Int8ArrayOID, []int64(a)) }

// Value writes an array as the database reads it; NULL for nil.
func (a Floats) Value() (driver.Value, error) { return arrayValue(pgtype.Float4ArrayOID, []float32(a)) }

func scanArray[T any](into *[]T, src any) error {
	if src == nil {
		*into = nil
		return nil
	}
	codec := arrays.Get().(*pgtype.Map)
	defer arrays.Put(codec)
	return codec.SQLScanner(into).Scan(src)
}

func arrayValue[T any](oid uint32, list []T) (driver.Value, error) {
	if list == nil {
		return nil, nil
	}
	codec := arrays.Get().(*pgtype.Map)
	defer arrays.Put(codec)
	text, err := codec.Encode(oid, pgtype.TextFormatCode, list, nil)
	if err != nil {
		return nil, fmt.Errorf("writing an array: %w", err)
	}
	return string(text), nil
}
