package dachshund.links.jdbc;

import static org.assertj.core.api.Assertions.assertThat;

import dachshund.core.layout.BadQuality;
import dachshund.core.layout.Column;
import dachshund.core.layout.ColumnSource;
import dachshund.core.layout.Layout;
import dachshund.core.layout.SqlType;
import dachshund.core.sql.Dialect;
import dachshund.core.sql.StandardDialect;
import dachshund.links.mariadb.MariaDbDialect;
import dachshund.links.mariadb.MySqlDialect;
import dachshund.links.postgresql.PostgreSqlDialect;
import dachshund.links.sqlite.SqliteDialect;
import dachshund.links.unrun.OracleDialect;
import dachshund.links.unrun.SqlServerDialect;
import java.util.List;
import java.util.stream.Stream;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.MethodSource;

/**
 * Statements of the engines, as text, side by side. MariaDB, PostgreSQL and SQLite are held to theirs by the contract in links; SQL Server
 * and Oracle only here, against their documentation as remembered (Transact-SQL reference, Oracle SQL Language Reference).
 */
class DialectsTest {

    private static Column constant(String name, SqlType type) {
        return Column.of(name, type, new ColumnSource.Constant("x"));
    }

    private static final Layout LOTS = Layout.proposed()
            .plus(new Column("lot", SqlType.text(20), new ColumnSource.Constant("x"), true, BadQuality.WRITE_NULL))
            .plus(constant("bags", SqlType.INTEGER))
            .withKeys(List.of("lot"), List.of(List.of("record_time", "lot")));

    static Stream<Dialect> all() {
        return Stream.of(
                new StandardDialect(),
                new MariaDbDialect(),
                new MySqlDialect(),
                new PostgreSqlDialect(),
                new SqliteDialect(),
                new SqlServerDialect(),
                new OracleDialect());
    }

    @ParameterizedTest
    @MethodSource("all")
    void everyEngineHasATypeForEachOfOursAndReadsItBack(Dialect dialect) {
        for (String type : List.of(
                "boolean",
                "smallint",
                "integer",
                "bigint",
                "decimal(12,3)",
                "double",
                "text(80)",
                "date",
                "time(3)",
                "timestamp(6)",
                "json",
                "uuid")) {
            String name = dialect.typeName(SqlType.read(type));
            assertThat(name).isNotBlank();
            boolean lost = dialect.engine().equals("Oracle")
                            && List.of("smallint", "integer", "date", "time(3)", "json", "uuid")
                                    .contains(type)
                    || dialect.engine().equals("SQL Server") && type.equals("json")
                    || dialect.engine().equals("MySQL") && type.equals("uuid")
                    || dialect.engine().equals("SQLite") && type.equals("integer");
            if (!lost) {
                assertThat(dialect.readType(name))
                        .as(dialect.engine() + " " + name)
                        .contains(SqlType.read(type));
            }
        }
    }

    @ParameterizedTest
    @MethodSource("all")
    void everyStatementHasAParameterForEachColumnAndQuotesItsNames(Dialect dialect) {
        Layout odd = LOTS.plus(constant("it's ]\"`", SqlType.DOUBLE));
        for (String sql :
                List.of(dialect.insert("t", odd), dialect.update("t", odd), dialect.insertOrUpdate("t", odd))) {
            assertThat(sql.chars().filter(c -> c == '?').count())
                    .as(sql)
                    .isEqualTo(odd.written().size());
            assertThat(sql).contains(dialect.quote("it's ]\"`")).doesNotContain("null");
        }
        assertThat(Dialect.updateOrder(odd)).as("the key comes last").containsExactly(0, 1, 3, 4, 2);
    }

    @Test
    void sqlServer() {
        Dialect dialect = new SqlServerDialect();
        assertThat(dialect.executed()).isFalse();
        assertThat(dialect.createTable("lots", LOTS, false))
                .containsExactly(
                        """
                CREATE TABLE [lots] (
                  [id] BIGINT IDENTITY(1,1) NOT NULL,
                  [record_time] DATETIME2(3) NULL,
                  [row_id] CHAR(40) COLLATE Latin1_General_BIN2 NOT NULL,
                  [lot] NVARCHAR(20) NOT NULL,
                  [bags] INT NULL,
                  PRIMARY KEY ([id]),
                  UNIQUE ([lot]),
                  UNIQUE ([row_id])
                )""",
                        "CREATE INDEX [ix_lots_record_time_lot] ON [lots] ([record_time], [lot])");
        assertThat(dialect.insertOrUpdate("lots", LOTS))
                .isEqualTo(
                        "MERGE INTO [lots] WITH (HOLDLOCK) AS t USING (VALUES (?, ?, ?, ?)) AS s ([record_time], [row_id], [lot], [bags]) ON (t.[lot] = s.[lot]) "
                                + "WHEN MATCHED THEN UPDATE SET t.[record_time] = s.[record_time], t.[row_id] = s.[row_id], t.[bags] = s.[bags] "
                                + "WHEN NOT MATCHED THEN INSERT ([record_time], [row_id], [lot], [bags]) VALUES (s.[record_time], s.[row_id], s.[lot], s.[bags]);");
        assertThat(dialect.call("take lot", List.of("lot", "@bags"))).isEqualTo("EXEC [take lot] @lot = ?, @bags = ?");
        assertThat(dialect.addColumn("lots", LOTS.columns().get(2)))
                .last()
                .asString()
                .endsWith("WHERE [row_id] IS NOT NULL");
        assertThat(dialect.identifierProblem("x".repeat(129))).isPresent();
    }

    @Test
    void oracle() {
        Dialect dialect = new OracleDialect();
        assertThat(dialect.executed()).isFalse();
        assertThat(dialect.createTable("LOTS", LOTS, false).get(0))
                .contains(
                        "\"id\" NUMBER(19) GENERATED BY DEFAULT AS IDENTITY NOT NULL",
                        "\"record_time\" TIMESTAMP(3) NULL",
                        "\"lot\" VARCHAR2(20 CHAR) NOT NULL");
        assertThat(dialect.insertOrUpdate("LOTS", LOTS))
                .startsWith(
                        "MERGE INTO \"LOTS\" t USING (SELECT ? AS \"record_time\", ? AS \"row_id\", ? AS \"lot\", ? AS \"bags\" FROM dual) s ON (t.\"lot\" = s.\"lot\") WHEN MATCHED THEN UPDATE SET");
        assertThat(dialect.call("TAKE", List.of())).isEqualTo("BEGIN \"TAKE\"(?); END;");
        assertThat(dialect.identifierProblem("say \"hi\"")).isPresent();
        assertThat(dialect.identifierHint("outlet")).get().asString().contains("small letters");
        assertThat(dialect.identifierHint("OUTLET")).isEmpty();
    }

    /** What rounds to about 7 digits without a word (IEEE 754) is known by the engine's own name of it. */
    @Test
    void typesOfSinglePrecisionAreKnown() {
        assertThat(new MariaDbDialect().singlePrecision("float")).isTrue();
        assertThat(new MariaDbDialect().singlePrecision("double")).isFalse();
        assertThat(new PostgreSqlDialect().singlePrecision("real")).isTrue();
        assertThat(new PostgreSqlDialect().singlePrecision("double precision")).isFalse();
    }

    @Test
    void aDatabaseThatIsAFileNeverLeavesItsFolder() {
        assertThat(new SqliteDialect().databaseProblem("../up"))
                .get()
                .asString()
                .contains("folders cannot be given");
        assertThat(new SqliteDialect().databaseProblem("june 2026.db")).isEmpty();
    }

    @Test
    void indexNamesAreShortAndTellIndexesApart() {
        String table = "a table with a name that is nearly as long as one may be, 60";
        String one = StandardDialect.indexName(table, List.of("record_time"));
        String two = StandardDialect.indexName(table, List.of("lot"));
        assertThat(one).hasSizeLessThanOrEqualTo(60).isNotEqualTo(two).matches("[A-Za-z0-9_]+");
    }
}
