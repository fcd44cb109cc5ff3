package dachshund.office.archive;

import dachshund.office.archive.HistoryImport.Review;
import dachshund.office.definition.Definitions;
import dachshund.office.own.DachshundSettings;
import java.io.BufferedOutputStream;
import java.io.IOException;
import java.io.InputStream;
import java.io.OutputStream;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.stream.Stream;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;
import org.springframework.stereotype.Component;

/** Files with history that people have brought, between the review and the writing. They do not outlive a restart. */
@Component
public class BroughtFiles {

    private static final Logger LOG = LoggerFactory.getLogger(BroughtFiles.class);
    private static final int MOST = 10;

    private final Path folder;
    /** Oldest first. */
    private final Map<String, Brought> all = new LinkedHashMap<>();

    /** A file and, once it was read, what it has. */
    public record Brought(String id, String name, Path file, Optional<Review> review) {}

    BroughtFiles(DachshundSettings settings) {
        this.folder = settings.var().resolve("brought");
        remains();
    }

    private void remains() {
        if (!Files.isDirectory(folder)) {
            return;
        }
        try (Stream<Path> files = Files.list(folder)) {
            for (Path file : files.toList()) {
                Files.deleteIfExists(file);
            }
        } catch (IOException cannot) {
            LOG.warn(
                    "What was brought before the restart could not be removed from {}: {}",
                    folder,
                    cannot.getMessage());
        }
    }

    /** What a file is filled by. */
    @FunctionalInterface
    public interface Content<E extends Exception> {
        void into(OutputStream file) throws E, IOException;
    }

    /** Takes a file; the oldest one goes where there are many. */
    public Brought take(String name, InputStream content) throws IOException {
        return this.<IOException>write(name, content::transferTo);
    }

    /** Takes what somebody writes, once it is whole; of what breaks off nothing stays. */
    public <E extends Exception> Brought write(String name, Content<E> content) throws E, IOException {
        String id = Definitions.newId();
        Path file = place(id);
        boolean whole = false;
        try {
            try (OutputStream to = new BufferedOutputStream(Files.newOutputStream(file))) {
                content.into(to);
            }
            whole = true;
        } finally {
            if (!whole) {
                Files.deleteIfExists(file);
            }
        }
        return keep(id, name);
    }

    private Path place(String id) throws IOException {
        Files.createDirectories(folder);
        return folder.resolve(id + ".csv");
    }

    private synchronized Brought keep(String id, String name) {
        Brought brought = new Brought(id, name, folder.resolve(id + ".csv"), Optional.empty());
        all.put(id, brought);
        for (String old : List.copyOf(all.keySet()).subList(0, Math.max(0, all.size() - MOST))) {
            drop(old);
        }
        return brought;
    }

    public synchronized void reviewed(String id, Review review) {
        all.computeIfPresent(id, (key, each) -> new Brought(each.id(), each.name(), each.file(), Optional.of(review)));
    }

    public synchronized Optional<Brought> find(String id) {
        return Optional.ofNullable(all.get(id));
    }

    public synchronized void drop(String id) {
        Brought gone = all.remove(id);
        if (gone != null) {
            try {
                Files.deleteIfExists(gone.file());
            } catch (IOException cannot) {
                LOG.warn("{} could not be removed: {}", gone.file(), cannot.getMessage());
            }
        }
    }
}
