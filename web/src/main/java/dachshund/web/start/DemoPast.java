package dachshund.web.start;

import dachshund.core.work.Progress;
import dachshund.engine.thread.Threads;
import dachshund.office.archive.HistoryImport;
import dachshund.office.audit.Audit;
import dachshund.office.own.DachshundSettings;
import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;
import org.springframework.stereotype.Component;

/** What the demo plant did in the week before, brought in once as anybody would bring history in, while the pages are there already. */
@Component
class DemoPast {

    private static final Logger LOG = LoggerFactory.getLogger(DemoPast.class);

    private final DachshundSettings settings;
    private final HistoryImport history;
    private final Audit audit;

    DemoPast(DachshundSettings settings, HistoryImport history, Audit audit) {
        this.settings = settings;
        this.history = history;
        this.audit = audit;
    }

    /** The file goes when it is in; broken off, it is brought in again at the next start, and nothing is there twice. */
    void bringIn() {
        if (settings.demoHistory().isBlank() || !Files.exists(Path.of(settings.demoHistory()))) {
            return;
        }
        Path file = Path.of(settings.demoHistory());
        Threads.once("demo-past", () -> {
            try {
                long values = history.write(file, Progress.UNHEARD);
                Files.deleteIfExists(file);
                audit.note("demo", "brought history in", values + " values of the week before");
            } catch (IOException cannot) {
                LOG.warn("{} could not be removed: {}", file, cannot.getMessage());
            } catch (Exception problem) {
                LOG.error("The demo has no past: {}", problem.getMessage(), problem);
            }
        });
    }
}
