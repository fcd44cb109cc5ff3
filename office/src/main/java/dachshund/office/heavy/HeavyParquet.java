package dachshund.office.heavy;

import dachshund.links.heavy.Cells;
import dachshund.links.heavy.Frames;
import dachshund.links.heavy.Frames.Frame;
import dachshund.links.heavy.Job;
import dachshund.office.heavy.Heavy.Unable;
import java.io.ByteArrayOutputStream;
import java.io.DataOutputStream;
import java.io.IOException;
import java.nio.ByteBuffer;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.List;

/** A Parquet file that the second process makes of rows that are given here. */
public final class HeavyParquet implements AutoCloseable {

    private static final int AT_ONCE = 256 * 1024;
    private static final int MOST = 32 * 1024 * 1024;

    private final SecondProcess process;
    private final Path file;
    private final int columns;
    private final Runnable done;
    private final Buffer buffer = new Buffer();
    private final DataOutputStream cells = new DataOutputStream(buffer);
    private int rows;
    private boolean answered;
    private boolean closed;
    private boolean released;

    /** Bytes that are sent without another copy; the first four tell how many rows there are. */
    private static final class Buffer extends ByteArrayOutputStream {

        Buffer() {
            super(AT_ONCE + AT_ONCE / 4);
            begin();
        }

        void begin() {
            reset();
            write(0);
            write(0);
            write(0);
            write(0);
        }

        byte[] bytes(int rows) {
            ByteBuffer.wrap(buf).putInt(0, rows);
            return buf;
        }
    }

    HeavyParquet(SecondProcess process, List<String> columns, Path file, Runnable done) throws Unable {
        this.process = process;
        this.file = file;
        this.columns = columns.size();
        this.done = done;
        process.working(true);
        process.send(Frames.Kind.BEGIN, new Job(columns, file.toString()).json());
    }

    /** The process that works at it. */
    public long pid() {
        return process.pid();
    }

    public void row(List<Object> row) throws IOException {
        for (int i = 0; i < columns; i++) {
            Cells.write(cells, row.get(i));
        }
        rows++;
        if (buffer.size() >= AT_ONCE) {
            flush();
        }
    }

    private void flush() throws Unable {
        if (rows == 0) {
            return;
        }
        int count = buffer.size();
        if (count > MOST) {
            throw new Unable("A row of " + count / 1_000_000 + " MB is too large for a Parquet file here.", null);
        }
        process.send(Frames.Kind.ROWS, buffer.bytes(rows), count);
        buffer.begin();
        rows = 0;
    }

    /**
     * All rows are there.
     *
     * @return the file, which is gone when this is closed
     */
    public Path finish() throws IOException {
        flush();
        process.send(Frames.Kind.END, "");
        Frame answer = process.answer();
        answered = true;
        process.working(false);
        over();
        if (answer.kind() != Frames.Kind.DONE) {
            throw new Unable("The Parquet file could not be made: " + answer.text(), null);
        }
        return file;
    }

    @Override
    public void close() throws IOException {
        if (closed) {
            return;
        }
        closed = true;
        try {
            if (!answered && process.alive()) {
                process.send(Frames.Kind.GIVE_UP, "");
                process.answer();
            }
        } catch (Unable gone) {
            // It ended; so did what it worked at.
        } finally {
            if (!answered) {
                process.working(false);
            }
            Files.deleteIfExists(file);
            over();
        }
    }

    /** The next one may begin, also while somebody still takes the file at their own pace. */
    private void over() {
        if (!released) {
            released = true;
            done.run();
        }
    }
}
