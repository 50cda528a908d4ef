package store

import (
	"database/sql"
	"strings"

	"gorm.io/gorm"
	"gorm.io/gorm/callbacks"
	"gorm.io/gorm/clause"
	"gorm.io/gorm/logger"
	"gorm.io/gorm/schema"
)

// dialect lets GORM speak to SQLite over a connection that is there already. The one that comes with GORM brings a
// second driver, in C. Tables are made by migrations, so of the schema it knows nothing.
type dialect struct{ conn *sql.DB }

// Name names it in GORM.
func (dialect) Name() string { return "sqlite" }

// Initialize tells GORM which clauses a statement has (https://sqlite.org/lang.html).
func (d dialect) Initialize(db *gorm.DB) error {
	db.ConnPool = d.conn
	callbacks.RegisterDefaultCallbacks(db, &callbacks.Config{
		CreateClauses:        []string{"INSERT", "VALUES", "ON CONFLICT", "RETURNING"},
		UpdateClauses:        []string{"UPDATE", "SET", "FROM", "WHERE", "RETURNING"},
		DeleteClauses:        []string{"DELETE", "FROM", "WHERE", "RETURNING"},
		LastInsertIDReversed: true,
	})
	return nil
}

// BindVarTo writes the place of a value.
func (dialect) BindVarTo(to clause.Writer, _ *gorm.Statement, _ any) { _ = to.WriteByte('?') }

// QuoteTo writes a name, such as a column or a table and its column.
func (dialect) QuoteTo(to clause.Writer, name string) {
	for n, part := range strings.Split(name, ".") {
		if n > 0 {
			_ = to.WriteByte('.')
		}
		_, _ = to.WriteString("`" + strings.ReplaceAll(part, "`", "``") + "`") // SQLite takes an unknown name in double quotes for a text
	}
}

// Explain writes a statement with its values, for the log; values are left out of it by the logger's settings.
func (dialect) Explain(statement string, values ...any) string {
	return logger.ExplainSQL(statement, nil, `"`, values...)
}

// DefaultValueOf is what a column holds that an insertion does not name.
func (dialect) DefaultValueOf(*schema.Field) clause.Expression { return clause.Expr{SQL: "NULL"} }

// DataTypeOf is not asked for: migrations make the tables.
func (dialect) DataTypeOf(*schema.Field) string { return "" }

// Migrator is not used: migrations make the tables.
func (dialect) Migrator(*gorm.DB) gorm.Migrator { return nil }
