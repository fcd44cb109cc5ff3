package dachshund.office.heavy;

import dachshund.links.heavy.Cells;
import dachshund.links.heavy.Frames;
import dachshund.links.heavy.Frames.Frame;
import dachshund.links.heavy.JoinJob;
import dachshund.office.heavy.Heavy.Unable;
import java.io.ByteArrayInputStream;
import java.io.ByteArrayOutputStream;
import java.io.DataInputStream;
import java.io.DataOutputStream;
import java.io.IOException;
import java.util.ArrayList;
import java.util.List;

/** One query over tables of rows, in the second process: the rows of each table are given, and those of the query taken. */
public final class HeavyJoin implements AutoCloseable {

    private final SecondProcess process;
    private final Runnable done;
    private final RowFrames rows;
    private int columns;
    private volatile boolean answered;
    private boolean closed;

    /** Takes what comes of it. */
    public interface Taker {
        void columns(List<JoinJob.Column> columns);

        /** @return whether more are wanted */
        boolean row(List<Object> cells);
    }

    /** The query itself was refused; the message is the engine's own. */
    public static final class Refused extends IOException {
        private static final long serialVersionUID = 1;

        Refused(String sentence) {
            super(sentence);
        }
    }

    HeavyJoin(SecondProcess process, JoinJob job, long until, Runnable done) throws Unable {
        this.process = process;
        this.done = done;
        this.rows = new RowFrames(process);
        process.until(until);
        process.working(true);
        process.send(Frames.Kind.JOIN, job.json());
    }

    /** The process that works at it. */
    public long pid() {
        return process.pid();
    }

    /** From any thread: nobody wants it any more. */
    public void breakOff() {
        if (!answered) {
            process.kill("It was broken off.");
        }
    }

    /** Begins the next table. */
    public void table(JoinJob.Table table) throws IOException {
        rows.flush();
        columns = table.columns().size();
        process.send(Frames.Kind.TABLE, table.json());
    }

    /** A row of it. */
    public void row(List<Object> cells) throws IOException {
        rows.row(cells, columns);
    }

    /**
     * Asks the query, once all tables have their rows.
     *
     * @return how many rows the taker was given
     * @throws Refused in the engine's words
     */
    public long ask(List<Object> values, Taker taker) throws IOException {
        ByteArrayOutputStream bytes = new ByteArrayOutputStream();
        DataOutputStream cells = new DataOutputStream(bytes);
        cells.writeInt(values.size());
        for (Object value : values) {
            Cells.write(cells, value);
        }
        rows.flush();
        process.send(Frames.Kind.VALUES, bytes.toByteArray(), bytes.size());
        long given = 0;
        boolean more = true;
        while (true) {
            Frame frame = process.answer();
            switch (frame.kind()) {
                case COLUMNS -> {
                    List<JoinJob.Column> all = JoinJob.columns(frame.text());
                    columns = all.size();
                    taker.columns(all);
                }
                case ROWS -> {
                    // What nobody wants any more is read to its end, so that the next work finds the process ready.
                    DataInputStream in = new DataInputStream(new ByteArrayInputStream(frame.bytes()));
                    int count = in.readInt();
                    for (int i = 0; i < count && more; i++) {
                        List<Object> row = new ArrayList<>(columns);
                        for (int c = 0; c < columns; c++) {
                            row.add(Cells.read(in));
                        }
                        given++;
                        more = taker.row(row);
                    }
                }
                case DONE -> {
                    answered = true;
                    return given;
                }
                default -> {
                    answered = true;
                    throw new Refused(frame.text());
                }
            }
        }
    }

    @Override
    public void close() {
        if (closed) {
            return;
        }
        closed = true;
        try {
            if (!answered && process.alive()) {
                process.send(Frames.Kind.GIVE_UP, "");
                // What was on its way is read to its end.
                Frames.Kind kind = process.answer().kind();
                while (kind != Frames.Kind.FAILED && kind != Frames.Kind.DONE) {
                    kind = process.answer().kind();
                }
            }
        } catch (Unable gone) {
            // It ended; so did what it worked at.
        } finally {
            process.until(0);
            process.working(false);
            done.run();
        }
    }
}
