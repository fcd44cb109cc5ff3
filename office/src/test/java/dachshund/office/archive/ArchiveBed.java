package dachshund.office.archive;

import com.zaxxer.hikari.HikariDataSource;
import dachshund.standins.mariadb.PrivateMariaDb;
import java.util.List;
import org.flywaydb.core.Flyway;
import org.springframework.jdbc.core.simple.JdbcClient;

/** Our own database with nothing in it, on a real MariaDB that all tests of the archive share; it ends with their process. */
public final class ArchiveBed {

    public static final HikariDataSource POOL = new HikariDataSource();
    static final JdbcClient JDBC;

    static {
        PrivateMariaDb server = new PrivateMariaDb();
        POOL.setJdbcUrl(server.url("archived") + "&createDatabaseIfNotExist=true&timezone=UTC");
        POOL.setConnectionTimeout(2000);
        Flyway.configure().dataSource(POOL).load().migrate();
        JDBC = JdbcClient.create(POOL);
        Runtime.getRuntime().addShutdownHook(new Thread(() -> {
            POOL.close();
            server.close();
        }));
    }

    private ArchiveBed() {}

    public static void empty() {
        for (String each : List.of("block", "hour", "tag", "lane", "later", "by_hand")) {
            JDBC.sql("DELETE FROM archive_" + each).update();
        }
    }
}
