package dachshund.web.reach;

import dachshund.core.definition.Definition;
import dachshund.core.definition.DestinationDefinition;
import dachshund.core.definition.SourceDefinition;
import dachshund.core.destination.RowStore;
import dachshund.core.destination.StoreProblem;
import dachshund.core.source.LinkTest;
import dachshund.core.source.PlantLink;
import dachshund.engine.Engine;
import dachshund.web.audit.Audit;
import dachshund.web.definition.Definitions;
import java.time.Duration;
import org.springframework.security.core.Authentication;
import org.springframework.security.core.context.SecurityContextHolder;
import org.springframework.stereotype.Component;

/**
 * The door through which a person reaches a source or a destination that does not run as it is: a test, a look into what is
 * there, a draft. Each such try stands in the audit, with where it went and what came of it.
 */
@Component
public class Reaching {

    private static final Duration TEST_LIMIT = Duration.ofSeconds(10);

    private final Engine engine;
    private final Definitions definitions;
    private final Audit audit;

    Reaching(Engine engine, Definitions definitions, Audit audit) {
        this.engine = engine;
        this.definitions = definitions;
        this.audit = audit;
    }

    private static String who() {
        Authentication who = SecurityContextHolder.getContext().getAuthentication();
        return who == null ? "dachshund" : who.getName();
    }

    private String place(Definition definition) {
        return definition.kind().words() + " " + definition.name() + ": " + engine.place(definition);
    }

    /** Notes it where the thing does not run like that anyhow; many pages look at what is drafted. */
    private void lookedInto(Definition definition) {
        if (definitions.live(definition.id()).filter(definition::equals).isEmpty()) {
            audit.noteOnce(who(), "looked into a connection", place(definition));
        }
    }

    /** A destination as it is defined; whoever asks closes it. */
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
            audit.note(who(), "failed to reach", place(destination) + ": " + refused.getMessage());
            throw refused;
        }
        return noted(destination, test);
    }

    public LinkTest test(SourceDefinition source) {
        try (PlantLink link = engine.sources().open(source)) {
            link.want(source.tags());
            return noted(source, link.test(TEST_LIMIT));
        } catch (IllegalArgumentException refused) {
            audit.note(who(), "failed to reach", place(source) + ": " + refused.getMessage());
            throw refused;
        }
    }

    private LinkTest noted(Definition definition, LinkTest test) {
        audit.note(
                who(),
                test.worked() ? "tested a connection" : "failed to reach",
                place(definition) + ": " + test.sentence());
        return test;
    }
}
