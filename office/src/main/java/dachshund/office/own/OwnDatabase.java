package dachshund.office.own;

import com.zaxxer.hikari.HikariDataSource;
import dachshund.engine.thread.Worker;
import java.sql.Connection;
import java.sql.DriverManager;
import java.sql.SQLException;
import java.sql.Statement;
import java.util.ArrayList;
import java.util.List;
import java.util.concurrent.CopyOnWriteArrayList;
import javax.sql.DataSource;
import org.flywaydb.core.Flyway;
import org.flywaydb.core.api.FlywayException;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;
import org.springframework.context.annotation.Bean;
import org.springframework.context.annotation.Configuration;
import org.springframework.context.event.ContextClosedEvent;
import org.springframework.context.event.EventListener;
import org.springframework.dao.DataAccessException;
import org.springframework.stereotype.Component;

/**
 * Our own MariaDB, which may be away at any time, also at start. Looks every few seconds; when it answers for the first
 * time, makes and migrates the schema and tells those who wait for it.
 */
@Component
public class OwnDatabase {

    private static final Logger LOG = LoggerFactory.getLogger(OwnDatabase.class);

    /** A server that says nothing for so long is given up: no page hangs for good. */
    private static final int LONGEST_ANSWER_MILLIS = 60_000;
    /** One that hangs is away. */
    private static final int LONGEST_LOOK_MILLIS = 5000;

    private final DachshundSettings.Database settings;
    private final DataSource dataSource;
    private final List<Runnable> whenReady = new ArrayList<>();
    private final List<Runnable> whenAnswering = new CopyOnWriteArrayList<>();
    private volatile boolean ready;
    private volatile boolean answers;
    private volatile String trouble = "Our own database has not answered yet.";
    private Worker watcher;

    OwnDatabase(DachshundSettings settings, DataSource dataSource) {
        this.settings = settings.database();
        this.dataSource = dataSource;
    }

    /** The pool; opening it needs no database. */
    @Configuration
    static class Pool {
        @Bean
        DataSource dataSource(DachshundSettings settings) {
            DachshundSettings.Database own = settings.database();
            HikariDataSource pool = new HikariDataSource();
            pool.setPoolName("own");
            pool.setJdbcUrl(url(own, own.name()) + "&socketTimeout=" + LONGEST_ANSWER_MILLIS);
            pool.setUsername(own.user());
            pool.setPassword(own.secret());
            pool.setMaximumPoolSize(8);
            pool.setMinimumIdle(1);
            pool.setConnectionTimeout(3000);
            pool.setInitializationFailTimeout(-1);
            return pool;
        }
    }

    /** Its address; of the server where the name is empty. */
    public static String url(DachshundSettings.Database own, String name) {
        return "jdbc:mariadb://" + own.host() + ":" + own.port() + "/" + name + "?connectTimeout=2000&timezone=UTC";
    }

    /** Runs the action once the schema is there: at once if it is, else when the database answers. */
    public synchronized void whenReady(Runnable action) {
        if (ready) {
            action.run();
        } else {
            whenReady.add(action);
        }
    }

    /** Runs the action each time it was looked at and answered; may throw what the database throws. */
    public void wheneverItAnswers(Runnable action) {
        whenAnswering.add(action);
    }

    /** Tries once now, then keeps looking in the background. */
    public void begin() {
        look();
        watcher = dachshund.engine.thread.Threads.start("own-database", () -> {
            look();
            return 2_000_000_000L;
        });
    }

    private void look() {
        try (Connection connection = DriverManager.getConnection(
                        url(settings, "") + "&socketTimeout=" + LONGEST_LOOK_MILLIS,
                        settings.user(),
                        settings.secret());
                Statement statement = connection.createStatement()) {
            if (!ready) {
                statement.execute("CREATE DATABASE IF NOT EXISTS `"
                        + settings.name().replace("`", "``") + "` CHARACTER SET utf8mb4");
                Flyway.configure().dataSource(dataSource).load().migrate();
            }
            if (!answers) {
                LOG.info("Our own database answers.");
            }
            answers = true;
            trouble = "";
            becomeReady();
            whenAnswering.forEach(OwnDatabase::guarded);
        } catch (SQLException | FlywayException | DataAccessException e) {
            if (answers) {
                LOG.warn("Our own database is away: {}", e.getMessage());
            }
            answers = false;
            trouble = e.getMessage() == null ? "it does not answer" : e.getMessage();
        }
    }

    /** What fails in one keeps nothing from the others, but where it is the database that fails. */
    private static void guarded(Runnable action) {
        try {
            action.run();
        } catch (DataAccessException away) {
            throw away;
        } catch (RuntimeException defect) {
            LOG.error("Something that was to be done while our own database answers failed.", defect);
        }
    }

    private synchronized void becomeReady() {
        if (!ready) {
            whenReady.forEach(Runnable::run);
            whenReady.clear();
            ready = true;
        }
    }

    /** Whether it answered when last looked at, at most a few seconds ago. */
    public boolean answers() {
        return answers;
    }

    /** Why it does not answer; empty where it does. */
    public String trouble() {
        return trouble;
    }

    @EventListener(ContextClosedEvent.class)
    void end() {
        if (watcher != null) {
            watcher.close();
        }
    }
}
