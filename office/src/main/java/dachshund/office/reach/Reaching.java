package dachshund.office.reach;

import dachshund.core.definition.Definition;
import dachshund.core.definition.DestinationDefinition;
import dachshund.core.definition.SourceDefinition;
import dachshund.core.destination.RowStore;
import dachshund.core.destination.StoreProblem;
import dachshund.core.destination.UnopenedStore;
import dachshund.core.reader.DatabaseDefinition;
import dachshund.core.reader.TableReading;
import dachshund.core.source.LinkTest;
import dachshund.core.source.PlantLink;
import dachshund.engine.Engine;
import dachshund.office.audit.Audit;
import dachshund.office.definition.Definitions;
import dachshund.office.person.Acting;
import java.time.Duration;
import java.util.ArrayList;
import java.util.List;
import java.util.Locale;
import java.util.Optional;
import org.springframework.stereotype.Component;

/**
 * The door through which a person reaches a source or a destination that does not run as it is: a test, a look into what is
 * there, a draft. Each such try stands in the audit, with where it went and what came of it.
 */
@Component
public class Reaching {

    private static final Duration TEST_LIMIT = Duration.ofSeconds(10);

    /** Its name in the local store. */
    private static final String TESTED = "tested connections";

    private static final int MOST_TESTED = 1000;

    private final Engine engine;
    private final Definitions definitions;
    private final Audit audit;
    private final Acting acting;

    Reaching(Engine engine, Definitions definitions, Audit audit, Acting acting) {
        this.engine = engine;
        this.definitions = definitions;
        this.audit = audit;
        this.acting = acting;
    }

    private String place(Definition definition) {
        return definition.kind().words() + " " + definition.name() + ": " + engine.place(definition);
    }

    /** Notes it where the thing does not run like that anyhow; many pages look at what is drafted. */
    private void lookedInto(Definition definition) {
        if (definitions.live(definition.id()).filter(definition::equals).isEmpty()) {
            audit.noteOnce(acting.who(), "looked into a connection", place(definition));
        }
    }

    /**
     * A destination for a page that shows something of it; whoever asks closes it. Looking connects nowhere that nobody has
     * decided to connect to: what does not run like that, and was not tested, answers with a sentence.
     */
    public RowStore look(DestinationDefinition destination) {
        return notDecided(destination)
                .<RowStore>map(sentence ->
                        new UnopenedStore(engine.storeKind(destination.store()).dialect(), sentence))
                .orElseGet(() -> engine.openStore(destination));
    }

    /** Why a page does not look there: nobody has decided to connect to it, by a release or a test. Empty where it may. */
    public Optional<String> notDecided(Definition definition) {
        String place = engine.place(definition);
        boolean runs = definitions
                .live(definition.id())
                .map(engine::place)
                .filter(place::equals)
                .isPresent();
        return place.isEmpty() || runs || tested().contains(mark(definition, place))
                ? Optional.empty()
                : Optional.of(
                        "Nobody has tested this connection since it was drafted, and looking at a page sends nothing there. Test the "
                                + definition.kind().words().toLowerCase(Locale.ROOT) + " " + definition.name()
                                + " first.");
    }

    private static String mark(Definition definition, String place) {
        return definition.id() + " " + place.replaceAll("\\s+", " ");
    }

    private List<String> tested() {
        return engine.local()
                .remembered(TESTED)
                .map(text -> List.of(text.split("\n")))
                .orElse(List.of());
    }

    /** A person has connected there, whatever came of it; known over restarts. */
    private void isTested(Definition definition) {
        String mark = mark(definition, engine.place(definition));
        synchronized (this) {
            List<String> all = new ArrayList<>(tested());
            if (!all.contains(mark)) {
                all.add(mark);
                engine.local()
                        .remember(
                                TESTED,
                                String.join("\n", all.subList(Math.max(0, all.size() - MOST_TESTED), all.size())));
            }
        }
    }

    /** A destination as it is defined, for what a person does with it; whoever asks closes it. */
    public RowStore store(DestinationDefinition destination) {
        lookedInto(destination);
        return engine.openStore(destination);
    }

    /** A source as it is defined; whoever asks closes it. */
    public PlantLink link(SourceDefinition source) {
        lookedInto(source);
        return engine.sources().open(source);
    }

    public LinkTest test(DestinationDefinition destination) {
        return test(destination, false);
    }

    /** @param create makes the database first, which is not there yet */
    public LinkTest test(DestinationDefinition destination, boolean create) {
        LinkTest test;
        try (RowStore store = engine.openStore(destination)) {
            if (create) {
                store.createDatabase();
            }
            test = store.test(TEST_LIMIT);
        } catch (StoreProblem refused) {
            test = LinkTest.failed(refused.getMessage(), "database");
        } catch (IllegalArgumentException refused) {
            audit.note(acting.who(), "failed to reach", place(destination) + ": " + refused.getMessage());
            throw refused;
        }
        return noted(destination, test);
    }

    /** Says also what the account may do beside reading. */
    public LinkTest test(DatabaseDefinition database) {
        try (TableReading reading = engine.openTables(database)) {
            LinkTest test = reading.test(TEST_LIMIT);
            return noted(database, test.worked() ? alsoMayWrite(reading, test) : test);
        } catch (IllegalArgumentException refused) {
            audit.note(acting.who(), "failed to reach", place(database) + ": " + refused.getMessage());
            throw refused;
        }
    }

    private static LinkTest alsoMayWrite(TableReading reading, LinkTest test) {
        try {
            return reading.mayWrite()
                    .map(may -> LinkTest.good(
                            test.sentence() + " Its account may do more than read (" + may
                                    + "); nothing here does, and an account that may SELECT alone is safer.",
                            test.ownName()))
                    .orElse(test);
        } catch (StoreProblem notSaid) {
            return LinkTest.failed(notSaid.getMessage(), "user");
        }
    }

    public LinkTest test(SourceDefinition source) {
        try (PlantLink link = engine.sources().open(source)) {
            link.want(source.tags());
            return noted(source, link.test(TEST_LIMIT));
        } catch (IllegalArgumentException refused) {
            audit.note(acting.who(), "failed to reach", place(source) + ": " + refused.getMessage());
            throw refused;
        }
    }

    private LinkTest noted(Definition definition, LinkTest test) {
        isTested(definition);
        audit.note(
                acting.who(),
                test.worked() ? "tested a connection" : "failed to reach",
                place(definition) + ": " + test.sentence());
        return test;
    }
}
