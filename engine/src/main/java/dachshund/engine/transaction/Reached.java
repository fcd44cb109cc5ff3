package dachshund.engine.transaction;

import dachshund.core.definition.Definition;
import dachshund.core.definition.DestinationDefinition;
import dachshund.core.definition.Plant;
import dachshund.core.destination.StoreProblem;
import dachshund.core.reader.DatabaseDefinition;
import dachshund.core.reader.QueryProblem;
import dachshund.core.reader.QueryText;
import dachshund.core.reader.TableReading;
import dachshund.core.reader.TableShape;
import dachshund.core.sql.Dialect;
import dachshund.core.transaction.Session;
import dachshund.core.transaction.Transacting;
import dachshund.engine.thread.Threads;
import java.time.Duration;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.stream.Stream;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;

/** The databases that transactions reach, each opened once for all of them. From any thread. */
final class Reached implements AutoCloseable {

    private static final Logger LOG = LoggerFactory.getLogger(Reached.class);
    private static final Duration LOOK_UP = Duration.ofSeconds(10);

    private final Transactions.Opening opening;
    private final Map<Definition, Transacting> databases = new HashMap<>();
    private final Map<Definition, TableReading> readers = new HashMap<>();

    Reached(Transactions.Opening opening) {
        this.opening = opening;
    }

    static Optional<DestinationDefinition> destination(Plant known, String id) {
        return known.all(DestinationDefinition.class).stream()
                .filter(each -> each.id().equals(id))
                .findFirst();
    }

    /** Whether a database is open under just this design of it. */
    boolean isOpen(DestinationDefinition destination) {
        synchronized (databases) {
            return databases.containsKey(destination);
        }
    }

    /** @throws RuntimeException with a sentence, where rows cannot be changed there within a transaction */
    Transacting database(DestinationDefinition destination) {
        synchronized (databases) {
            forgotten(databases, destination);
            return databases.computeIfAbsent(destination, each -> opening.database(destination));
        }
    }

    TableReading reading(Plant known, String id) throws QueryProblem {
        Definition database = readable(known, id);
        synchronized (readers) {
            forgotten(readers, database);
            return readers.computeIfAbsent(database, opening::reading);
        }
    }

    Dialect dialect(Plant known, String id) throws QueryProblem {
        return opening.dialect(readable(known, id));
    }

    /** Rows of a database that is only read. */
    Session.Found ask(Plant known, String id, QueryText query, List<Object> bound, int most)
            throws StoreProblem, QueryProblem {
        TableReading reading = reading(known, id);
        List<String> columns = new ArrayList<>();
        List<List<Object>> rows = new ArrayList<>();
        reading.ask(query, bound, LOOK_UP, most, new TableReading.Taker() {
            @Override
            public void columns(List<TableShape.Column> found) {
                found.forEach(each -> columns.add(each.name()));
            }

            @Override
            public boolean row(List<Object> cells) {
                rows.add(cells);
                return true;
            }
        });
        return new Session.Found(columns, rows);
    }

    private static Definition readable(Plant known, String id) throws QueryProblem {
        return Stream.concat(
                        known.all(DatabaseDefinition.class).stream(), known.all(DestinationDefinition.class).stream())
                .filter(each -> each.id().equals(id))
                .findFirst()
                .orElseThrow(() -> new QueryProblem(
                        id.isEmpty()
                                ? "No database is chosen yet."
                                : "The database that it asks is not there any more."));
    }

    /** What was opened under another design of the same thing is closed, away from here: somebody may be using it. */
    private static <T extends AutoCloseable> void forgotten(Map<Definition, T> opened, Definition now) {
        for (Definition each : List.copyOf(opened.keySet())) {
            if (each.id().equals(now.id()) && !each.equals(now)) {
                T old = opened.remove(each);
                Threads.once("closing", () -> close(old));
            }
        }
    }

    private static void close(AutoCloseable each) {
        try {
            each.close();
        } catch (Exception cannot) {
            LOG.warn("A database was not closed in peace: {}", cannot.getMessage());
        }
    }

    /** One that hangs holds up nobody. */
    @Override
    public void close() {
        List<AutoCloseable> open = new ArrayList<>();
        synchronized (databases) {
            open.addAll(databases.values());
            databases.clear();
        }
        synchronized (readers) {
            open.addAll(readers.values());
            readers.clear();
        }
        open.forEach(each -> Threads.once("closing", () -> close(each)));
    }
}
