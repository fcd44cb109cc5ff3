package dachshund.office.export;

import java.io.FilterOutputStream;
import java.io.IOException;
import java.io.OutputStream;

/** A stream that whoever opened it closes. */
final class NotClosed extends FilterOutputStream {

    NotClosed(OutputStream to) {
        super(to);
    }

    @Override
    public void write(byte[] bytes, int from, int count) throws IOException {
        out.write(bytes, from, count);
    }

    @Override
    public void close() throws IOException {
        flush();
    }
}
