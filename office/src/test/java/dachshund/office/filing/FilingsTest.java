package dachshund.office.filing;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;
import static org.mockito.ArgumentMatchers.any;
import static org.mockito.Mockito.doAnswer;
import static org.mockito.Mockito.mock;

import com.zaxxer.hikari.HikariDataSource;
import dachshund.core.definition.DefinitionCodec;
import dachshund.core.definition.SourceDefinition;
import dachshund.office.own.OwnDatabase;
import dachshund.standins.mariadb.PrivateMariaDb;
import java.time.Duration;
import java.util.List;
import java.util.Map;
import java.util.stream.IntStream;
import org.flywaydb.core.Flyway;
import org.junit.jupiter.api.AfterAll;
import org.junit.jupiter.api.BeforeAll;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;
import org.springframework.jdbc.core.simple.JdbcClient;
import org.springframework.jdbc.support.JdbcTransactionManager;
import org.springframework.transaction.support.TransactionTemplate;

/** On a real MariaDB; what sources had in their documents in earlier versions is taken over. */
class FilingsTest {

    private static PrivateMariaDb server;
    private static HikariDataSource pool;
    private static JdbcClient jdbc;

    @BeforeAll
    static void anInstallationOfBefore() {
        server = new PrivateMariaDb();
        pool = new HikariDataSource();
        pool.setJdbcUrl(server.url("filed") + "&createDatabaseIfNotExist=true&timezone=UTC");
        Flyway.configure().dataSource(pool).target("4").load().migrate();
        jdbc = JdbcClient.create(pool);
        jdbc.sql("INSERT INTO release_made VALUES (1, NOW(), 'a', ''), (2, NOW(), 'a', '')")
                .update();
        version("a0000001", 1, "SOURCE", source("Old", "[]"));
        version("a0000001", 2, "SOURCE", source("Energy / Meters", "[\"night shift\", \"it's, odd\"]"));
        version("a0000002", 1, "SOURCE", source("Live", "[]"));
        draft("a0000002", 1, source("First", "[]"));
        draft("a0000002", 2, source("Drafted", "[\"d\"]"));
        version("a0000003", 1, "SOURCE", source(null, null));
        version("c0000001", 1, "RECORDER", "{\"folder\":\"Not meant\"}");
        Flyway.configure().dataSource(pool).load().migrate();
    }

    @AfterAll
    static void end() {
        pool.close();
        server.close();
    }

    private static String source(String folder, String labels) {
        String document = DefinitionCodec.write(
                new SourceDefinition("a0000001", "Meters", "", "modbus", Map.of(), Duration.ofSeconds(1), List.of()));
        return folder == null
                ? document
                : document.replaceFirst(
                        "\\{", "{\"folder\":\"" + folder + "\",\"labels\":" + labels.replace("\\", "") + ",");
    }

    private static void version(String id, int release, String kind, String document) {
        jdbc.sql(
                        "INSERT INTO definition_version (definition_id, release_id, kind, name, document) VALUES (?, ?, ?, 'n', ?)")
                .params(id, release, kind, document)
                .update();
    }

    private static void draft(String id, int revision, String document) {
        jdbc.sql(
                        "INSERT INTO draft (definition_id, revision, kind, name, document, edited_by, edited_at) VALUES (?, ?, 'SOURCE', 'n', ?, 'a', NOW())")
                .params(id, revision, document)
                .update();
    }

    /** As a start finds them. */
    private static Filings started() {
        OwnDatabase database = mock(OwnDatabase.class);
        doAnswer(asked -> {
                    asked.<Runnable>getArgument(0).run();
                    return null;
                })
                .when(database)
                .whenReady(any());
        return new Filings(jdbc, new TransactionTemplate(new JdbcTransactionManager(pool)), database);
    }

    @Test
    void whatSourcesHadInTheirDocumentsIsTakenOverAndTheDocumentsAreStillRead() {
        Filings filings = started();
        assertThat(filings.of("a0000001").folder()).isEqualTo("Energy / Meters");
        // In which order the migration's GROUP_CONCAT has them is up to the database: it gave another one at load.
        assertThat(filings.of("a0000001").labels()).containsExactlyInAnyOrder("night shift", "it's", "odd");
        assertThat(filings.of("a0000002")).isEqualTo(new Filed("Drafted", List.of("d")));
        assertThat(filings.of("a0000003")).isEqualTo(Filed.NOWHERE);
        assertThat(filings.of("c0000001")).isEqualTo(Filed.NOWHERE);
        String document = jdbc.sql(
                        "SELECT document FROM definition_version WHERE definition_id = 'a0000001' AND release_id = 2")
                .query(String.class)
                .single();
        assertThat(document).contains("Energy / Meters");
        assertThat(DefinitionCodec.read(document).name()).isEqualTo("Meters");
    }

    @Test
    void thingsAreMovedAndLabelledTogetherAndStayLikeThat() {
        Filings filings = started();
        List<String> many =
                IntStream.range(0, 300).mapToObj(n -> String.format("d%07x", n)).toList();
        assertThat(filings.move(many, " Hall 2/ Dryers ")).isEqualTo(300);
        assertThat(filings.label(many.subList(0, 10), "quality; quality, night"))
                .isEqualTo(10);
        assertThat(filings.label(many.subList(0, 20), "night")).isEqualTo(10);
        assertThat(filings.unlabel(many, "quality")).isEqualTo(10);
        assertThat(filings.move(many, "Hall 2 / Dryers"))
                .as("stand there already")
                .isZero();
        long version = filings.version();
        assertThat(filings.folders()).contains("Hall 2", "Hall 2 / Dryers", "Energy", "Energy / Meters");
        assertThat(filings.version()).isEqualTo(version);
        for (Filings each : List.of(filings, started())) {
            assertThat(each.of(many.get(3))).isEqualTo(new Filed("Hall 2 / Dryers", List.of("night")));
            assertThat(each.of(many.get(299))).isEqualTo(new Filed("Hall 2 / Dryers", List.of()));
        }
        filings.move(many, "");
        assertThat(started().of(many.get(299))).isEqualTo(Filed.NOWHERE);
    }

    @Test
    void whatCannotBeKeptIsSaidAndChangesNothing() {
        Filings filings = started();
        List<String> two = List.of("e0000001", "e0000002");
        filings.label(
                List.of("e0000002"),
                String.join(",", IntStream.range(0, 30).mapToObj(n -> "l" + n).toList()));
        assertThatThrownBy(() -> filings.label(two, "one more")).hasMessage("A thing has up to 30 labels.");
        assertThat(filings.of("e0000001")).isEqualTo(Filed.NOWHERE);
        assertThatThrownBy(() -> filings.move(two, "x".repeat(201))).hasMessage("A folder has up to 200 characters.");
        assertThatThrownBy(() -> filings.label(two, "x".repeat(61))).hasMessageContaining("60 characters");
    }

    @ParameterizedTest
    @CsvSource({
        "'', ''",
        "' / ', ''",
        "'Energy', 'Energy'",
        "'Energy/Meters', 'Energy / Meters'",
        "' Energy  west /  / Meters ', 'Energy west / Meters'"
    })
    void aFolderIsReadAsPeopleWriteIt(String written, String folder) {
        assertThat(Filed.folder(written)).isEqualTo(folder);
    }
}
