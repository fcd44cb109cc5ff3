package dachshund.office.export;

import java.util.Arrays;
import java.util.Optional;

/** The formats that tables go out in. */
public enum FileFormat {
    /** RFC 4180, UTF-8 with a byte-order mark, times in UTC as in RFC 3339, texts made safe for spreadsheets. */
    CSV(
            "csv",
            "CSV",
            "text/csv;charset=UTF-8",
            "UTF-8, times in UTC; a text that a spreadsheet would take for a formula is led by an apostrophe"),
    /** An object a line, RFC 8259, UTF-8; times in UTC as in RFC 3339. */
    JSON_LINES("jsonl", "JSON Lines", "application/x-ndjson;charset=UTF-8", "An object a line, times in UTC"),
    /** ECMA-376; times in UTC. */
    WORKBOOK(
            "xlsx",
            "Workbook",
            "application/vnd.openxmlformats-officedocument.spreadsheetml.sheet",
            "Times in UTC; numbers of more than 15 digits are texts, since a cell would round them; a text of more than 32,767 letters is cut, and says so"),
    /** Apache Parquet; a column has the narrowest type that holds all its cells. */
    PARQUET(
            "parquet",
            "Parquet",
            "application/vnd.apache.parquet",
            "Each column has the narrowest type that holds all its cells");

    private final String ending;
    private final String words;
    private final String mediaType;
    private final String help;

    FileFormat(String ending, String words, String mediaType, String help) {
        this.ending = ending;
        this.words = words;
        this.mediaType = mediaType;
        this.help = help;
    }

    public String ending() {
        return ending;
    }

    public String words() {
        return words;
    }

    public String mediaType() {
        return mediaType;
    }

    /** What somebody should know of a file of it. */
    public String help() {
        return help;
    }

    public static Optional<FileFormat> of(String ending) {
        return Arrays.stream(values())
                .filter(each -> each.ending.equals(ending))
                .findFirst();
    }
}
