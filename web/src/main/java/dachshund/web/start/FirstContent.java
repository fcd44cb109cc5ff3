package dachshund.web.start;

import dachshund.engine.thread.Threads;
import dachshund.engine.thread.Worker;
import dachshund.office.definition.Definitions;
import dachshund.office.own.DachshundSettings;
import dachshund.web.people.People;
import dachshund.web.people.Role;
import java.io.IOException;
import java.io.UncheckedIOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.nio.file.attribute.PosixFilePermissions;
import java.time.Duration;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;
import org.springframework.context.event.ContextClosedEvent;
import org.springframework.context.event.EventListener;
import org.springframework.stereotype.Component;

/** What an empty installation begins with: an administrator with a one-time password, or the demo's people and plant. */
@Component
class FirstContent {

    private static final Logger LOG = LoggerFactory.getLogger(FirstContent.class);

    private static final Duration ASK_AGAIN = Duration.ofSeconds(5);

    private final DachshundSettings settings;
    private final People people;
    private final Definitions definitions;
    private final DemoPlant demoPlant;
    private final DemoPast past;
    private Worker demo;

    FirstContent(
            DachshundSettings settings, People people, Definitions definitions, DemoPlant demoPlant, DemoPast past) {
        this.past = past;
        this.settings = settings;
        this.people = people;
        this.definitions = definitions;
        this.demoPlant = demoPlant;
    }

    void make() {
        if (people.all().isEmpty()) {
            if (settings.demo()) {
                people.add("admin", "admin-demo", Role.ADMINISTRATOR, false, "demo");
                people.add("engineer", "engineer-demo", Role.ENGINEER, false, "demo");
                people.add("viewer", "viewer-demo", Role.VIEWER, false, "demo");
            } else {
                firstAdministrator();
            }
        }
        if (demoIsThere()) {
            past.bringIn();
        } else {
            // A busy machine may be slow to bring the simulated plant up.
            demo = Threads.start("demo-content", () -> {
                boolean there = demoIsThere();
                if (there) {
                    past.bringIn();
                }
                return there ? Duration.ofDays(1).toNanos() : ASK_AGAIN.toNanos();
            });
        }
    }

    /** Makes the demo's content where there is none. @return false where the plant does not answer yet */
    private boolean demoIsThere() {
        return !settings.demo() || !definitions.drafted().isEmpty() || definitions.release() != 0 || demoPlant.make();
    }

    @EventListener(ContextClosedEvent.class)
    void end() {
        if (demo != null) {
            demo.close();
        }
    }

    private void firstAdministrator() {
        String once = People.oneTimePassword();
        people.add("admin", once, Role.ADMINISTRATOR, true, "first start");
        if (settings.readyFile().isBlank()) {
            LOG.warn("First sign-in: admin with the one-time password {}", once);
            return;
        }
        Path file = Path.of(settings.readyFile()).resolveSibling("first-sign-in");
        try {
            Files.deleteIfExists(file);
            Files.createFile(file, PosixFilePermissions.asFileAttribute(PosixFilePermissions.fromString("rw-------")));
            Files.writeString(
                    file, "admin / " + once + "   (one-time password; you choose your own at the first sign-in)");
        } catch (IOException e) {
            throw new UncheckedIOException(e);
        }
    }
}
