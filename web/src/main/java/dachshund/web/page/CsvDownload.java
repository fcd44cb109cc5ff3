package dachshund.web.page;

import de.siegmar.fastcsv.writer.CsvWriter;
import de.siegmar.fastcsv.writer.LineDelimiter;
import jakarta.servlet.http.HttpServletResponse;
import java.io.IOException;
import java.io.OutputStreamWriter;
import java.io.Writer;
import java.nio.charset.StandardCharsets;

/** A CSV file (RFC 4180) as the answer to a request: UTF-8 with a byte-order mark, row by row. */
public final class CsvDownload {

    private CsvDownload() {}

    /**
     * Flushed by whoever has written all of it, and not closed: what is closed looks whole, also where it broke off.
     *
     * @param name of the file, without characters that a header cannot hold
     */
    public static CsvWriter open(HttpServletResponse response, String name) throws IOException {
        response.setContentType("text/csv;charset=UTF-8");
        response.setHeader("Content-Disposition", "attachment; filename=\"" + name + "\"");
        Writer out = new OutputStreamWriter(response.getOutputStream(), StandardCharsets.UTF_8);
        out.write('\uFEFF');
        return CsvWriter.builder().lineDelimiter(LineDelimiter.CRLF).build(out);
    }
}
