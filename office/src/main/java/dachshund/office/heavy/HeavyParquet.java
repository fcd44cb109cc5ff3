package dachshund.office.heavy;

import dachshund.links.heavy.Frames;
import dachshund.links.heavy.Frames.Frame;
import dachshund.links.heavy.Job;
import dachshund.office.heavy.Heavy.Unable;
import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.List;

/** A Parquet file that the second process makes of rows that are given here. */
public final class HeavyParquet implements AutoCloseable {

    private final SecondProcess process;
    private final Path file;
    private final int columns;
    private final Runnable done;
    private final RowFrames rows;
    private boolean answered;
    private boolean closed;
    private boolean released;

    HeavyParquet(SecondProcess process, List<String> columns, Path file, Runnable done) throws Unable {
        this.process = process;
        this.file = file;
        this.columns = columns.size();
        this.done = done;
        this.rows = new RowFrames(process);
        process.working(true);
        process.send(Frames.Kind.BEGIN, new Job(columns, file.toString()).json());
    }

    /** The process that works at it. */
    public long pid() {
        return process.pid();
    }

    public void row(List<Object> row) throws IOException {
        rows.row(row, columns);
    }

    /**
     * All rows are there.
     *
     * @return the file, which is gone when this is closed
     */
    public Path finish() throws IOException {
        rows.flush();
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
