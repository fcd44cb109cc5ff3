package dachshund.office.query;

import dachshund.core.reader.TableReading;
import dachshund.core.reader.TableShape;
import dachshund.links.heavy.Cells;
import java.io.BufferedOutputStream;
import java.io.ByteArrayInputStream;
import java.io.DataInputStream;
import java.io.DataOutputStream;
import java.io.EOFException;
import java.io.IOException;
import java.io.UncheckedIOException;
import java.nio.ByteBuffer;
import java.nio.channels.FileChannel;
import java.nio.file.Files;
import java.nio.file.Path;
import java.nio.file.StandardOpenOption;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.List;

/**
 * Rows of an answer in a file, so that any part of it is there at once while more come, and memory does not grow with it. One
 * thread gives rows; any may read those that were given.
 */
final class KeptRows implements TableReading.Taker, AutoCloseable {

    /** So many rows are read for one. */
    private static final int STEP = 50;

    private final Path file;
    private final long mostBytes;
    private final FileChannel channel;
    private final DataOutputStream out;
    private final List<TableShape.Column> columns = new ArrayList<>();
    private long[] starts = new long[16];
    private volatile long rows;
    private volatile long bytes;
    private volatile boolean full;
    private volatile boolean unwanted;
    private volatile boolean gone;
    private volatile Runnable breakOff = () -> {};

    KeptRows(Path file, long mostBytes) throws IOException {
        this.file = file;
        this.mostBytes = mostBytes;
        Files.createDirectories(file.getParent());
        this.channel = FileChannel.open(
                file, StandardOpenOption.CREATE_NEW, StandardOpenOption.READ, StandardOpenOption.WRITE);
        this.out = new DataOutputStream(new BufferedOutputStream(Files.newOutputStream(file), 1 << 16));
    }

    @Override
    public void columns(List<TableShape.Column> all) {
        synchronized (this) {
            columns.addAll(all);
        }
    }

    @Override
    public boolean row(List<Object> cells) {
        try {
            synchronized (this) {
                if (unwanted || full) {
                    return false;
                }
                int step = Math.toIntExact(rows / STEP);
                if (rows % STEP == 0) {
                    out.flush();
                    if (step == starts.length) {
                        starts = Arrays.copyOf(starts, starts.length * 2);
                    }
                    starts[step] = channel.size();
                    bytes = starts[step];
                    full = bytes > mostBytes;
                }
                if (full) {
                    return false;
                }
                for (Object cell : cells) {
                    Cells.write(out, cell);
                }
                rows++;
            }
            return true;
        } catch (IOException cannot) {
            throw new UncheckedIOException(cannot);
        }
    }

    @Override
    public void running(Runnable how) {
        breakOff = how;
        if (unwanted) {
            how.run();
        }
    }

    /** Nobody wants more of it. */
    void stop() {
        unwanted = true;
        breakOff.run();
    }

    boolean stopped() {
        return unwanted;
    }

    /** Whether nothing of it can be read any more. */
    boolean gone() {
        return gone;
    }

    /** Whether it has as many bytes as it may. */
    boolean full() {
        return full;
    }

    /** What it takes on disk, about. */
    long bytes() {
        return bytes;
    }

    /** How many rows there are so far. */
    long count() {
        return rows;
    }

    synchronized List<TableShape.Column> columns() {
        return List.copyOf(columns);
    }

    /** Some of the rows that are there. */
    List<List<Object>> read(long from, int most) throws IOException {
        long begin;
        byte[] bytes;
        long until;
        int width;
        synchronized (this) {
            out.flush();
            until = Math.min(rows, from + most);
            if (from < 0 || from >= until) {
                return List.of();
            }
            width = columns.size();
            int first = Math.toIntExact(from / STEP);
            int behind = Math.toIntExact((until + STEP - 1) / STEP);
            begin = (long) first * STEP;
            long end = (long) behind * STEP < rows ? starts[behind] : channel.size();
            bytes = new byte[Math.toIntExact(end - starts[first])];
            ByteBuffer buffer = ByteBuffer.wrap(bytes);
            while (buffer.hasRemaining()) {
                if (channel.read(buffer, starts[first] + buffer.position()) < 0) {
                    throw new EOFException("A file of rows ended before its rows did.");
                }
            }
        }
        DataInputStream in = new DataInputStream(new ByteArrayInputStream(bytes));
        List<List<Object>> found = new ArrayList<>();
        for (long at = begin; at < until; at++) {
            List<Object> row = new ArrayList<>(width);
            for (int i = 0; i < width; i++) {
                row.add(Cells.read(in));
            }
            if (at >= from) {
                found.add(row);
            }
        }
        return found;
    }

    @Override
    public void close() throws IOException {
        gone = true;
        stop();
        synchronized (this) {
            channel.close();
            out.close();
        }
        Files.deleteIfExists(file);
    }
}
