package dachshund.web.trail;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import com.zaxxer.hikari.HikariDataSource;
import dachshund.core.audit.AuditEntry;
import dachshund.core.secret.SecretBox;
import dachshund.office.audit.Audit;
import dachshund.office.audit.AuditTable;
import dachshund.office.own.DachshundSettings;
import dachshund.standins.mariadb.PrivateMariaDb;
import dachshund.web.trail.AuditSearch.Wanted;
import java.nio.file.Path;
import java.sql.Connection;
import java.time.Instant;
import java.time.ZoneId;
import java.util.List;
import org.flywaydb.core.Flyway;
import org.junit.jupiter.api.AfterAll;
import org.junit.jupiter.api.BeforeAll;
import org.junit.jupiter.api.Test;
import org.springframework.jdbc.core.simple.JdbcClient;

class AuditSearchTest {

    private static PrivateMariaDb server;

    @BeforeAll
    static void start() {
        server = new PrivateMariaDb();
    }

    @AfterAll
    static void end() {
        server.close();
    }

    @Test
    void entriesAreFoundByWordsPeopleDeedsAndPlantDays() throws Exception {
        try (HikariDataSource pool = new HikariDataSource()) {
            pool.setJdbcUrl(server.url("trail") + "&createDatabaseIfNotExist=true&timezone=UTC");
            Flyway.configure().dataSource(pool).load().migrate();
            AuditTable table = new AuditTable(new SecretBox(new byte[32]));
            try (Connection connection = pool.getConnection()) {
                for (AuditTable.Deed deed : List.of(
                        deed("engineer", "tested a connection", "database Ledger: host db_1, 100% fine"),
                        deed("admin", "added a person", "operator as Operator"))) {
                    table.append(connection, deed, "");
                }
            }
            DachshundSettings settings = new DachshundSettings(
                    "", ZoneId.of("Europe/London"), Path.of("var"), "", false, 0, 0, 0, "", "", null);
            areFound(new AuditSearch(JdbcClient.create(pool), pool, settings));
        }
    }

    private static AuditTable.Deed deed(String who, String what, String detail) {
        return new AuditTable.Deed(Audit.mark(), Instant.parse("2026-03-28T23:30:00Z"), who, what, detail);
    }

    private static void areFound(AuditSearch search) {
        assertThat(found(search, "ledger engineer", "", "", "", "")).containsExactly(1L);
        assertThat(found(search, "0% db_1", "", "", "", "")).containsExactly(1L);
        assertThat(found(search, "0% dbx1", "", "", "", ""))
                .as("% and _ are themselves")
                .isEmpty();
        assertThat(found(search, "db1", "", "", "", "")).isEmpty();
        assertThat(found(search, "", "admin", "", "", "")).containsExactly(2L);
        assertThat(found(search, "", "", "tested a connection", "", "")).containsExactly(1L);
        assertThat(found(search, "", "", "", "2026-03-28", "2026-03-28")).containsExactly(2L, 1L);
        assertThat(found(search, "", "", "", "2026-03-29", "")).isEmpty();
        assertThat(found(search, "", "", "", "", "2026-03-27")).isEmpty();
        assertThatThrownBy(() -> found(search, "", "", "", "yesterday", ""))
                .hasMessage("\"yesterday\" is no day. Write it like 2026-11-30.");
    }

    private static List<Long> found(AuditSearch search, String words, String who, String what, String from, String to) {
        return search.find(new Wanted(words, who, what, from, to), 0, 10).stream()
                .map(AuditEntry::number)
                .toList();
    }
}
