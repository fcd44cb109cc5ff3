package dachshund.engine.journal;

import java.io.IOException;
import java.nio.ByteBuffer;
import java.nio.channels.FileChannel;

/** Reads the frames of one file in order. Behind bytes that are none it looks for the next whole one. */
final class FrameScanner {

    private static final int WINDOW = 1 << 18;

    private final FileChannel file;
    private final String installation;
    private final long base;
    private final Frame.Names names;
    private ByteBuffer window = ByteBuffer.allocate(0);
    private long windowFrom;
    private long offset;
    private long skipped;

    /**
     * @param base   position of the file's first entry, where positions follow from offsets; -1 where they do not
     * @param offset where to begin in the file
     */
    FrameScanner(FileChannel file, String installation, long base, long offset, Frame.Names names) {
        this.file = file;
        this.installation = installation;
        this.base = base;
        this.offset = offset;
        this.names = names;
    }

    /** Where the next frame is looked for, in the file. */
    long offset() {
        return offset;
    }

    /** Bytes before the frame that was returned last that were none, and forgets them. */
    long skipped() {
        long bytes = skipped;
        skipped = 0;
        return bytes;
    }

    /** The next whole frame that ends at this offset of the file at the latest; null where there is none. */
    Journal.Entry next(long end) throws IOException {
        Journal.Entry entry = at(offset, end);
        if (entry != null) {
            offset += entry.body().length + overhead(entry);
            return entry;
        }
        for (long from = offset + 1; from + Frame.HEAD <= end; from++) {
            from = mark(from, end);
            if (from < 0) {
                return null;
            }
            entry = at(from, end);
            if (entry != null) {
                skipped += from - offset;
                offset = from + entry.body().length + overhead(entry);
                return entry;
            }
        }
        return null;
    }

    private static long overhead(Journal.Entry entry) {
        return entry.next() - entry.position() - entry.body().length;
    }

    /** The next place from here on where the mark of a frame stands; -1 where there is none. */
    private long mark(long from, long end) throws IOException {
        for (long at = from; at + Frame.HEAD <= end; at++) {
            if (!load(at, Frame.HEAD, end)) {
                return -1;
            }
            int i = (int) (at - windowFrom);
            int last = (int) Math.min(window.limit() - Frame.HEAD, end - windowFrom - Frame.HEAD);
            while (i <= last) {
                if (window.get(i) == (byte) (Frame.MARK >> 24) && window.getInt(i) == Frame.MARK) {
                    return windowFrom + i;
                }
                i++;
            }
            at = windowFrom + i - 1;
        }
        return -1;
    }

    private Journal.Entry at(long from, long end) throws IOException {
        if (!load(from, Frame.HEAD, end)) {
            return null;
        }
        int length = Frame.length(window, (int) (from - windowFrom));
        if (length < 0 || !load(from, Frame.HEAD + length, end)) {
            return null;
        }
        int at = (int) (from - windowFrom);
        if (!Frame.whole(window, at, length)) {
            return null;
        }
        Journal.Entry entry = Frame.read(window, at, length, installation, names);
        return base < 0 || entry.position() == base + from - SegmentFile.HEAD ? entry : null;
    }

    /** Sees to it that so many bytes from an offset on are in the window. */
    private boolean load(long from, int bytes, long end) throws IOException {
        if (from + bytes > end) {
            return false;
        }
        if (from >= windowFrom && from + bytes <= windowFrom + window.limit()) {
            return true;
        }
        ByteBuffer next = ByteBuffer.allocate((int) Math.min(Math.max(bytes, WINDOW), end - from));
        boolean filled = Summary.fill(file, next, from);
        if (!filled) {
            next.flip();
        }
        window = next;
        windowFrom = from;
        return window.limit() >= bytes;
    }
}
