package dachshund.standins.business;

import dachshund.standins.plant.Lots.Lot;
import java.sql.Connection;
import java.sql.DriverManager;
import java.sql.SQLException;
import java.time.Instant;
import java.util.ArrayList;
import java.util.List;
import java.util.concurrent.Executors;
import java.util.concurrent.ScheduledExecutorService;
import java.util.concurrent.TimeUnit;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;

/**
 * What other people's programs do with the lots of the plant: orders are booked, the laboratory reports. Each has a database on
 * the demo's server, which is made where it is empty. While the server is away, lots wait in memory.
 */
public final class Business implements AutoCloseable {

    private static final Logger LOG = LoggerFactory.getLogger(Business.class);
    private static final int EVERY_SECONDS = 5;
    private static final int LIMIT_SECONDS = 10;

    private final String url;
    private final String user;
    private final String password;
    private final List<Lot> toBook = new ArrayList<>();
    private final List<Lot> toReport = new ArrayList<>();
    private boolean made;
    private final ScheduledExecutorService clerk = Executors.newSingleThreadScheduledExecutor(task -> {
        Thread thread = new Thread(task, "business");
        thread.setDaemon(true);
        return thread;
    });

    /** @param server host and port of a MariaDB */
    public Business(String server, String user, String password) {
        this.url = "jdbc:mariadb://" + server + "/?connectTimeout=" + LIMIT_SECONDS * 1000 + "&socketTimeout="
                + LIMIT_SECONDS * 1000;
        this.user = user;
        this.password = password;
    }

    /** From now on it works by itself. */
    public Business start() {
        clerk.scheduleWithFixedDelay(
                () -> {
                    try {
                        work(Instant.now());
                    } catch (SQLException away) {
                        LOG.warn("The databases of laboratory and orders wait: {}", away.getMessage());
                    }
                },
                0,
                EVERY_SECONDS,
                TimeUnit.SECONDS);
        return this;
    }

    /** Lots that have ended. */
    public synchronized void take(List<Lot> ended) {
        toBook.addAll(ended);
    }

    /** Books what has ended and reports what is due; all of it or nothing, so that nothing of it is lost. */
    public synchronized void work(Instant now) throws SQLException {
        List<Lot> waiting = new ArrayList<>(toReport);
        waiting.addAll(toBook);
        List<Lot> due = waiting.stream()
                .filter(lot -> !Laboratory.reports(lot).isAfter(now))
                .toList();
        if (made && toBook.isEmpty() && due.isEmpty()) {
            return;
        }
        try (Connection connection = DriverManager.getConnection(url, user, password)) {
            if (!made) {
                Orders.make(connection);
                Laboratory.make(connection);
                made = true;
            }
            connection.setAutoCommit(false);
            for (Lot lot : toBook) {
                Orders.take(connection, lot);
            }
            for (Lot lot : due) {
                Laboratory.report(connection, lot);
            }
            connection.commit();
            toBook.clear();
            toReport.clear();
            waiting.removeAll(due);
            toReport.addAll(waiting);
        }
    }

    @Override
    public void close() {
        clerk.shutdownNow();
    }
}
