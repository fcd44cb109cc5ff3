package dachshund.links.sqlite;

import static org.assertj.core.api.Assertions.assertThat;

import dachshund.core.destination.RowReading;
import dachshund.core.destination.RowStore;
import dachshund.core.source.SettingField;
import dachshund.links.file.Inside;
import dachshund.links.jdbc.JdbcReader;
import dachshund.links.jdbc.StoreContract;
import java.nio.file.Path;
import java.sql.Connection;
import java.sql.DriverManager;
import java.sql.SQLException;
import java.sql.Statement;
import java.time.Duration;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import org.junit.jupiter.api.AfterAll;
import org.junit.jupiter.api.BeforeAll;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;

/** The store and the dialect against the real SQLite library. */
class SqliteStoreTest extends StoreContract {

    @TempDir
    static Path folder;

    private static RowStore store;

    @BeforeAll
    static void open() {
        store = SqliteEngine.kind(folder.resolve("files")).open(Map.of("file", "records.db"));
    }

    @AfterAll
    static void close() {
        store.close();
    }

    @Override
    protected RowStore store() {
        return store;
    }

    @Override
    protected boolean madeByOpening() {
        return true;
    }

    @Override
    protected RowReading reading(JdbcReader.Limits limits) {
        Inside root = new Inside(folder.resolve("files"));
        return new JdbcReader(new SqliteEngine(root, root.named("records.db")), limits);
    }

    /** No function of the library writes. */
    @Override
    protected List<String> viewThatWrites() {
        return List.of();
    }

    @Override
    protected Optional<String> procedureOfTwo(String name) {
        return Optional.empty();
    }

    @Override
    protected Optional<String> procedureOfOneJson(String name) {
        return Optional.empty();
    }

    /** The library is asked to make a column of each word that any of the dialects knows. */
    @Test
    void reservedWordsAreThoseTheLibraryRefuses() throws Exception {
        SqliteDialect dialect = new SqliteDialect();
        List<String> wrong = new ArrayList<>();
        try (Connection connection = DriverManager.getConnection("jdbc:sqlite::memory:");
                Statement statement = connection.createStatement()) {
            for (String word : KEYWORDS.strip().split("\\s+")) {
                boolean refused = false;
                try {
                    statement.execute("CREATE TABLE t_" + word + " (" + word + " INT)");
                } catch (SQLException reserved) {
                    refused = true;
                }
                if (refused != dialect.identifierHint(word).isPresent()) {
                    wrong.add(word);
                }
            }
        }
        assertThat(wrong).isEmpty();
    }

    @Test
    void itOpensFilesOfItsFolderOnly() {
        assertThat(store.test(Duration.ofSeconds(1)).sentence())
                .startsWith("SQLite 3.")
                .contains("records.db");
        for (String outside : List.of("../x.db", "/etc/x.db", "a/b.db", "", ".hidden")) {
            assertThat(SettingField.problems(SqliteEngine.kind(folder).settings(), Map.of("file", outside)))
                    .containsKey("file");
        }
    }

    /** SQLite's documentation, "SQLite Keywords" (147 words). */
    private static final String KEYWORDS =
            """
            ABORT ACTION ADD AFTER ALL ALTER ALWAYS ANALYZE AND AS ASC ATTACH AUTOINCREMENT BEFORE BEGIN BETWEEN BY CASCADE CASE CAST
            CHECK COLLATE COLUMN COMMIT CONFLICT CONSTRAINT CREATE CROSS CURRENT CURRENT_DATE CURRENT_TIME CURRENT_TIMESTAMP DATABASE
            DEFAULT DEFERRABLE DEFERRED DELETE DESC DETACH DISTINCT DO DROP EACH ELSE END ESCAPE EXCEPT EXCLUDE EXCLUSIVE EXISTS EXPLAIN
            FAIL FILTER FIRST FOLLOWING FOR FOREIGN FROM FULL GENERATED GLOB GROUP GROUPS HAVING IF IGNORE IMMEDIATE IN INDEX INDEXED
            INITIALLY INNER INSERT INSTEAD INTERSECT INTO IS ISNULL JOIN KEY LAST LEFT LIKE LIMIT MATCH MATERIALIZED NATURAL NO NOT
            NOTHING NOTNULL NULL NULLS OF OFFSET ON OR ORDER OTHERS OUTER OVER PARTITION PLAN PRAGMA PRECEDING PRIMARY QUERY RAISE RANGE
            RECURSIVE REFERENCES REGEXP REINDEX RELEASE RENAME REPLACE RESTRICT RETURNING RIGHT ROLLBACK ROW ROWS SAVEPOINT SELECT SET
            TABLE TEMP TEMPORARY THEN TIES TO TRANSACTION TRIGGER UNBOUNDED UNION UNIQUE UPDATE USING VACUUM VALUES VIEW VIRTUAL WHEN
            WHERE WINDOW WITH WITHOUT
            """;
}
