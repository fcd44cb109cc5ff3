package dachshund.links.heavy;

import dachshund.links.heavy.Frames.Frame;
import dachshund.links.heavy.Frames.Kind;
import java.io.BufferedInputStream;
import java.io.BufferedOutputStream;
import java.io.ByteArrayInputStream;
import java.io.DataInputStream;
import java.io.DataOutputStream;
import java.io.EOFException;
import java.io.IOException;
import java.io.PrintStream;
import java.nio.file.Files;
import java.nio.file.Path;
import java.sql.SQLException;
import java.util.ArrayList;
import java.util.List;

/**
 * The second process: does what takes much memory or native code, one work after the other, told by frames over its standard
 * input. It ends with the application, whose end closes that input; what kills it stops no recording.
 */
public final class HeavyWork {

    private final DataInputStream in;
    private final DataOutputStream out;

    private HeavyWork(DataInputStream in, DataOutputStream out) {
        this.in = in;
        this.out = out;
    }

    public static void main(String[] args) throws IOException {
        // What a library prints is no frame.
        PrintStream frames = System.out;
        System.setOut(System.err);
        new HeavyWork(
                        new DataInputStream(new BufferedInputStream(System.in, 1 << 16)),
                        new DataOutputStream(new BufferedOutputStream(frames)))
                .work();
    }

    private void work() throws IOException {
        while (true) {
            Frame frame;
            try {
                frame = Frames.read(in);
            } catch (EOFException ended) {
                return;
            }
            if (frame.kind() == Kind.BEGIN) {
                Job job = Job.of(frame.text());
                one(job);
            } else if (frame.kind() == Kind.JOIN) {
                join(JoinJob.of(frame.text()));
            }
            // What is left of a work that failed is passed over.
        }
    }

    private void one(Job job) throws IOException {
        try (ParquetFile parquet = new ParquetFile(job)) {
            while (true) {
                Frame frame = Frames.read(in);
                switch (frame.kind()) {
                    case ROWS -> parquet.add(rows(frame.bytes(), job.columns().size()));
                    case END -> {
                        Frames.write(out, Kind.DONE, Long.toString(parquet.finish()));
                        return;
                    }
                    default -> {
                        Files.deleteIfExists(Path.of(job.file()));
                        Frames.write(out, Kind.FAILED, "It was given up.");
                        return;
                    }
                }
            }
        } catch (SQLException | RuntimeException cannot) {
            Files.deleteIfExists(Path.of(job.file()));
            failed(cannot);
        }
    }

    private void failed(Exception cannot) throws IOException {
        Frames.write(out, Kind.FAILED, String.valueOf(cannot.getMessage()).replaceAll("\\s*\\n\\s*", " "));
    }

    private void join(JoinJob job) throws IOException {
        try (Joined joined = new Joined(job)) {
            while (true) {
                Frame frame = Frames.read(in);
                switch (frame.kind()) {
                    case TABLE -> joined.table(JoinJob.Table.of(frame.text()));
                    case ROWS -> joined.add(rows(frame.bytes(), joined.columns()));
                    case VALUES -> {
                        long sent = joined.answer(values(frame.bytes()), out);
                        Frames.write(out, Kind.DONE, Long.toString(sent));
                        return;
                    }
                    default -> {
                        Frames.write(out, Kind.FAILED, "It was given up.");
                        return;
                    }
                }
            }
        } catch (SQLException | RuntimeException cannot) {
            failed(cannot);
        }
    }

    /** A count, and as many cells. */
    private static Object[] values(byte[] bytes) throws IOException {
        DataInputStream cells = new DataInputStream(new ByteArrayInputStream(bytes));
        Object[] values = new Object[cells.readInt()];
        for (int i = 0; i < values.length; i++) {
            values[i] = Cells.read(cells);
        }
        return values;
    }

    private static List<Object[]> rows(byte[] bytes, int columns) throws IOException {
        DataInputStream cells = new DataInputStream(new ByteArrayInputStream(bytes));
        int count = cells.readInt();
        List<Object[]> rows = new ArrayList<>(count);
        for (int i = 0; i < count; i++) {
            Object[] row = new Object[columns];
            for (int c = 0; c < columns; c++) {
                row[c] = Cells.read(cells);
            }
            rows.add(row);
        }
        return rows;
    }
}
