package dachshund.engine.journal;

import java.io.IOException;
import java.io.UncheckedIOException;
import java.util.Map;
import java.util.concurrent.ConcurrentNavigableMap;

/** Reads what is durable of a {@link SegmentJournal}, file after file, over what was altered on disk and what was released. */
final class SegmentReader implements Journal.Reader {

    private final SegmentJournal journal;
    private final ConcurrentNavigableMap<Long, SegmentFile> segments;
    private final Frame.Names lanes = new Frame.Names();
    private long position;
    private SegmentFile in;
    private FrameScanner scanner;

    SegmentReader(SegmentJournal journal, ConcurrentNavigableMap<Long, SegmentFile> segments, long position) {
        this.journal = journal;
        this.segments = segments;
        this.position = position;
    }

    @Override
    public long position() {
        return position;
    }

    @Override
    public Journal.Entry next() {
        while (position < journal.durable()) {
            Map.Entry<Long, SegmentFile> at = segments.floorEntry(position);
            if (at == null) {
                position = segments.firstKey(); // what was here is released
                continue;
            }
            try {
                SegmentFile file = at.getValue();
                if (file.sealed() && position >= file.end()) {
                    Long following = segments.higherKey(file.base());
                    if (following == null) {
                        return null;
                    }
                    position = following;
                    continue;
                }
                if (!file.equals(in)) {
                    in = file;
                    scanner = file.scan(position, lanes);
                }
                Journal.Entry entry = scanner.next(journal.entriesEnd(file));
                if (entry != null) {
                    if (scanner.skipped() > 0) {
                        journal.damaged(file.path().getFileName() + ": bytes before position " + entry.position()
                                + " were altered on disk.");
                    }
                    position = entry.next();
                    return entry;
                }
                if (!file.sealed()) {
                    return null;
                }
                journal.damaged(file.path().getFileName() + ": bytes from position " + position
                        + " to its end were altered on disk.");
                position = file.end();
            } catch (IOException e) {
                throw new UncheckedIOException("The journal in " + journal.folder() + " cannot be read.", e);
            }
        }
        return null;
    }
}
