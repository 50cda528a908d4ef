package store

import (
	"context"
	"encoding"
	"encoding/json"
	"fmt"
	"reflect"
	"time"

	"gorm.io/gorm/schema"
)

// timeLayout sorts as text and holds whole milliseconds in UTC.
const timeLayout = "2006-01-02T15:04:05.000Z"

func init() { schema.RegisterSerializer("cell", cell{}) }

// cell keeps every member that is not a plain column: text types as their text, times in
// timeLayout, the rest as JSON. The zero value is NULL.
type cell struct{}

// Value implements schema.SerializerInterface.
func (cell) Value(_ context.Context, _ *schema.Field, _ reflect.Value, v any) (any, error) {
	rv := reflect.ValueOf(v)
	if !rv.IsValid() || rv.IsZero() {
		return nil, nil
	}
	switch x := v.(type) {
	case time.Time:
		return x.UTC().Format(timeLayout), nil
	case encoding.TextMarshaler:
		b, err := x.MarshalText()
		return string(b), err
	}
	if rv.Kind() == reflect.String {
		return rv.String(), nil
	}
	b, err := json.Marshal(v)
	return string(b), err
}

// Scan implements schema.SerializerInterface.
func (cell) Scan(ctx context.Context, f *schema.Field, dst reflect.Value, db any) error {
	into := reflect.New(f.FieldType)
	text, isText := db.(string)
	if b, ok := db.([]byte); ok {
		text, isText = string(b), true
	}
	if db != nil && !isText {
		return fmt.Errorf("column %s holds %T, not text", f.DBName, db)
	}
	if isText {
		if err := decodeCell(text, into); err != nil {
			return fmt.Errorf("column %s: %w", f.DBName, err)
		}
	}
	f.ReflectValueOf(ctx, dst).Set(into.Elem())
	return nil
}

func decodeCell(text string, into reflect.Value) error {
	switch x := into.Interface().(type) {
	case *time.Time:
		t, err := time.Parse(timeLayout, text)
		*x = t
		return err
	case encoding.TextUnmarshaler:
		return x.UnmarshalText([]byte(text))
	}
	if into.Elem().Kind() == reflect.String {
		into.Elem().SetString(text)
		return nil
	}
	return json.Unmarshal([]byte(text), into.Interface())
}
