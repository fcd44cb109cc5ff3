package dachshund.office.reader;

import dachshund.core.definition.Definition;
import dachshund.core.definition.DestinationDefinition;
import dachshund.core.destination.StoreProblem;
import dachshund.core.reader.DatabaseDefinition;
import dachshund.core.reader.TableReading;
import dachshund.core.reader.TablesKind;
import dachshund.core.sql.Dialect;
import dachshund.core.sql.StandardDialect;
import dachshund.engine.Engine;
import dachshund.engine.thread.Threads;
import dachshund.office.definition.Definitions;
import dachshund.office.definition.Standing;
import dachshund.office.reach.Reaching;
import jakarta.annotation.PreDestroy;
import java.util.Comparator;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.stream.Stream;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;
import org.springframework.stereotype.Component;

/** Every database whose tables can be read: those that are read only, and destinations that are databases. */
@Component
public class Databases {

    private static final Logger LOG = LoggerFactory.getLogger(Databases.class);

    private final Definitions definitions;
    private final Engine engine;
    private final Reaching reaching;
    private final Map<String, Open> open = new HashMap<>();

    /** What is open, and of which design. */
    private record Open(Definition of, TableReading reading) {}

    Databases(Definitions definitions, Engine engine, Reaching reaching) {
        this.definitions = definitions;
        this.engine = engine;
        this.reaching = reaching;
    }

    /** By name. */
    public List<Definition> all() {
        return Stream.concat(
                        definitions.all(DatabaseDefinition.class).stream(),
                        definitions.all(DestinationDefinition.class).stream().filter(this::hasTables))
                .map(Definition.class::cast)
                .sorted(Comparator.comparing(Definition::name, String.CASE_INSENSITIVE_ORDER))
                .toList();
    }

    private boolean hasTables(DestinationDefinition destination) {
        try {
            return engine.storeKind(destination.store()) instanceof TablesKind;
        } catch (IllegalArgumentException unknown) {
            return false;
        }
    }

    public Optional<Definition> find(String id) {
        return find(Standing.DRAFTED, id);
    }

    private Optional<Definition> find(Standing standing, String id) {
        return definitions
                .find(standing, Definition.class, id)
                .filter(each -> each instanceof DatabaseDefinition
                        || each instanceof DestinationDefinition destination && hasTables(destination));
    }

    /**
     * Its tables, shared by all who read; nobody closes them. Whoever reads while its design changes may be broken off.
     *
     * @throws StoreProblem where it is not there, cannot be opened, or nobody has decided to connect there yet
     */
    public TableReading tables(String id) throws StoreProblem {
        return tables(Standing.DRAFTED, id);
    }

    /** The same, for whoever may not design: nobody is led to a place that is not released. */
    public TableReading tables(Standing standing, String id) throws StoreProblem {
        Definition wanted = find(standing, id)
                .orElseThrow(() -> problem(
                        standing == Standing.DRAFTED
                                ? "This database is not there any more."
                                : "This database is not released, or not any more.",
                        null));
        Optional<String> not = reaching.notDecided(wanted);
        if (not.isPresent()) {
            throw problem(not.get(), null);
        }
        synchronized (open) {
            // What is drafted as it is released is opened once.
            boolean other = standing == Standing.RELEASED
                    && !find(id).map(Definition::settings).equals(Optional.of(wanted.settings()));
            String key = other ? id + " released" : id;
            Open there = open.get(key);
            if (there == null || !there.of().settings().equals(wanted.settings())) {
                try {
                    open.put(key, new Open(wanted, opened(wanted)));
                } catch (IllegalArgumentException cannot) {
                    throw problem(cannot.getMessage(), cannot);
                }
                if (there != null) {
                    Thread closing = Threads.once("closing", there.reading()::close);
                    LOG.debug("{} closes a database that has another address now.", closing.getName());
                }
            }
            return open.get(key).reading();
        }
    }

    /** How statements are written there; as the standard has them, where it is not there. */
    public Dialect dialect(String id) {
        return find(id).map(this::dialect).orElseGet(StandardDialect::new);
    }

    private Dialect dialect(Definition database) {
        return engine.storeKind(
                        database instanceof DatabaseDefinition reading
                                ? reading.store()
                                : ((DestinationDefinition) database).store())
                .dialect();
    }

    private TableReading opened(Definition definition) {
        return definition instanceof DatabaseDefinition database
                ? engine.openTables(database)
                : engine.openTables((DestinationDefinition) definition);
    }

    private static StoreProblem problem(String sentence, Throwable cause) {
        return new StoreProblem(StoreProblem.Kind.AWAY, -1, sentence, cause);
    }

    @PreDestroy
    void close() {
        synchronized (open) {
            open.values().forEach(each -> each.reading().close());
            open.clear();
        }
    }
}
