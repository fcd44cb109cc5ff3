package dachshund.office.heavy;

import dachshund.links.heavy.Cells;
import dachshund.links.heavy.Frames;
import dachshund.office.heavy.Heavy.Unable;
import java.io.ByteArrayOutputStream;
import java.io.DataOutputStream;
import java.io.IOException;
import java.nio.ByteBuffer;
import java.util.List;

/** Rows to the second process, many in a frame. */
final class RowFrames {

    private static final int AT_ONCE = 256 * 1024;
    private static final int MOST = 32 * 1024 * 1024;

    private final SecondProcess process;
    private final Buffer buffer = new Buffer();
    private final DataOutputStream cells = new DataOutputStream(buffer);
    private int rows;

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

    RowFrames(SecondProcess process) {
        this.process = process;
    }

    /** @param columns so many of its cells are meant */
    void row(List<Object> row, int columns) throws IOException {
        for (int i = 0; i < columns; i++) {
            Cells.write(cells, row.get(i));
        }
        rows++;
        if (buffer.size() >= AT_ONCE) {
            flush();
        }
    }

    void flush() throws Unable {
        if (rows == 0) {
            return;
        }
        int count = buffer.size();
        if (count > MOST) {
            throw new Unable("A row of " + count / 1_000_000 + " MB is too large for it.", null);
        }
        process.send(Frames.Kind.ROWS, buffer.bytes(rows), count);
        buffer.begin();
        rows = 0;
    }
}
