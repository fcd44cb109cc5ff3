package dachshund.engine.journal;

import dachshund.engine.journal.SegmentJournal.Known;
import dachshund.engine.journal.SegmentJournal.Opened;
import java.io.IOException;
import java.nio.file.Path;
import java.security.SecureRandom;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.NavigableMap;
import java.util.TreeMap;
import java.util.function.Consumer;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;

/**
 * What is found in the folder of a journal when it is opened: its files in order, the last of them ready to be gone on with,
 * whether it is the journal that was known, and what was damaged.
 */
final class Opening {

    private static final Logger LOG = LoggerFactory.getLogger(Opening.class);

    private final NavigableMap<Long, SegmentFile> segments = new TreeMap<>();
    private final Map<String, Long> lasts = new HashMap<>();
    private final Consumer<String> damaged;
    private String id = "";
    private final Opened opened;
    private final Summary openSummary;
    private long end;

    /** @param damaged told in sentences of what was altered on disk */
    Opening(Disk disk, Path folder, String installation, Known known, Consumer<String> damaged) throws IOException {
        this.damaged = damaged;
        for (Path path : SegmentFile.in(disk, folder)) {
            SegmentFile file = SegmentFile.open(disk, path);
            if (file.bytes() < SegmentFile.HEAD) {
                file.remove(); // begun, and the power went
                continue;
            }
            segments.put(file.base(), file);
        }
        disk.forceFolder(folder); // a process may have been killed before it had forced what it had begun
        segments.values().stream()
                .map(SegmentFile::journal)
                .filter(each -> !each.isEmpty())
                .reduce((a, b) -> b)
                .ifPresent(each -> id = each);
        boolean any = !segments.isEmpty();
        if (id.isEmpty() && any) {
            id = known.id(); // no head can be read, so it is taken for the one that was here
        }
        if (id.isEmpty()) {
            id = String.format("%016x", new SecureRandom().nextLong());
        }
        // A damaged head says nothing of who made its rows: those around it do.
        for (SegmentFile file : List.copyOf(segments.values())) {
            if (file.installation().isEmpty()) {
                SegmentFile beside = segments.values().stream()
                        .filter(each -> !each.installation().isEmpty())
                        .findFirst()
                        .orElse(null);
                segments.put(file.base(), file.of(beside == null ? installation : beside.installation(), id));
                damaged.accept(file.path().getFileName()
                        + ": its head was altered on disk; its entries are read all the same.");
            }
        }
        if (any) {
            segments.lastEntry().getValue().force(); // what a killed process wrote is durable only now
        }
        for (SegmentFile file : segments.values()) {
            if (!file.sealed()) {
                take(file);
            }
            end = Math.max(end, file.end()); // also behind a sealed one that no other was begun after
            file.summary().lanes().forEach((lane, each) -> lasts.merge(lane, each.lastNth(), Math::max));
        }
        long floor = known.id().isEmpty() || known.id().equals(id) || !any ? known.floor() : 0;
        opened = !any
                ? known.id().isEmpty() ? Opened.NEW : Opened.LOST
                : !known.id().equals(id) ? Opened.UNKNOWN : end < floor ? Opened.OLDER : Opened.SAME;
        SegmentFile last = any ? segments.lastEntry().getValue() : null;
        if (last == null || last.sealed() || end < floor) {
            if (last != null && !last.sealed()) {
                last.seal(end, SegmentFile.HEAD + end - last.base());
            }
            end = Math.max(end, floor);
            openSummary = new Summary();
            segments.put(end, SegmentFile.begin(disk, folder, end, installation, id, openSummary));
        } else if (!last.installation().equals(installation)) {
            last.seal(end, SegmentFile.HEAD + end - last.base());
            openSummary = new Summary();
            segments.put(end, SegmentFile.begin(disk, folder, end, installation, id, openSummary));
        } else {
            openSummary = last.summary();
        }
    }

    /** Takes stock of a file that was not sealed: the open one, or one that was cut off before its summary was written. */
    private void take(SegmentFile file) throws IOException {
        file.forceAgain();
        boolean last = segments.higherKey(file.base()) == null;
        long length = file.bytes();
        FrameScanner scanner = file.scan(file.base(), new Frame.Names());
        for (Journal.Entry entry = scanner.next(length); entry != null; entry = scanner.next(length)) {
            if (scanner.skipped() > 0) {
                damaged.accept(file.path().getFileName() + ": bytes before position " + entry.position()
                        + " were altered on disk.");
            }
            file.summary().add(entry);
        }
        long behind = file.base() + scanner.offset() - SegmentFile.HEAD;
        if (length > scanner.offset()) {
            LOG.warn("{}: {} bytes at the end were not whole and are cut off.", file.path(), length - scanner.offset());
            file.cut(scanner.offset());
        }
        end = Math.max(end, behind);
        if (!last) {
            file.seal(behind, scanner.offset());
        }
    }

    NavigableMap<Long, SegmentFile> segments() {
        return segments;
    }

    /** Number of the last entry of each lane that has any. */
    Map<String, Long> lasts() {
        return lasts;
    }

    String id() {
        return id;
    }

    Opened opened() {
        return opened;
    }

    /** Of the file that is gone on with. */
    Summary openSummary() {
        return openSummary;
    }

    /** Position behind the last entry. */
    long end() {
        return end;
    }
}
