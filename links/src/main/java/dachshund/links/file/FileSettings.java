package dachshund.links.file;

import dachshund.core.destination.Batching;
import dachshund.core.source.SettingField;
import java.nio.charset.Charset;
import java.nio.charset.StandardCharsets;
import java.nio.file.Path;
import java.time.ZoneId;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;

/**
 * Settings of files in a folder.
 *
 * @param root         what no path leaves
 * @param newFileRows  a new file after so many rows; 0 for never
 * @param newFileBytes a new file after so many bytes; 0 for never
 * @param quotaBytes   most bytes in the folder; 0 for no limit
 * @param keepDays     files are removed after so many days; 0 for never
 * @param guarded      whether texts that a spreadsheet would compute are led by an apostrophe
 * @param template     name of a workbook in the folder that each new one begins as; empty for none
 */
record FileSettings(
        Inside root,
        Path folder,
        String format,
        char separator,
        char decimal,
        Charset encoding,
        boolean mark,
        boolean header,
        boolean guarded,
        String times,
        ZoneId zone,
        long newFileRows,
        long newFileBytes,
        long quotaBytes,
        long keepDays,
        String template) {

    private static final long MEGA = 1024 * 1024;
    /** A workbook is written anew each time, and held in memory for that. */
    private static final long MOST_XLSX_ROWS = 100_000;

    static FileSettings of(Inside root, ZoneId zone, Map<String, String> settings) {
        String format = settings.getOrDefault("format", "csv");
        String encoding = settings.getOrDefault("encoding", "bom");
        long rows = number(settings, "newFileRows");
        return new FileSettings(
                root,
                root.named(settings.get("folder")),
                format,
                switch (settings.getOrDefault("separator", "comma")) {
                    case "semicolon" -> ';';
                    case "tab" -> '\t';
                    default -> ',';
                },
                settings.getOrDefault("decimal", "point").equals("comma") ? ',' : '.',
                encoding.equals("latin") ? Charset.forName("windows-1252") : StandardCharsets.UTF_8,
                encoding.equals("bom"),
                !settings.getOrDefault("header", "true").equals("false"),
                !settings.getOrDefault("guarded", "true").equals("false"),
                settings.getOrDefault("times", "utc"),
                zone,
                format.equals("xlsx") ? Math.min(rows == 0 ? MOST_XLSX_ROWS : rows, MOST_XLSX_ROWS) : rows,
                number(settings, "newFileMegabytes") * MEGA,
                number(settings, "quotaMegabytes") * MEGA,
                number(settings, "keepDays"),
                settings.getOrDefault("template", "").strip());
    }

    private static long number(Map<String, String> settings, String name) {
        String text = settings.getOrDefault(name, "").strip();
        return text.isEmpty() ? 0 : Long.parseLong(text);
    }

    String extension() {
        return "." + format;
    }

    static List<SettingField> fields() {
        List<SettingField> fields = new ArrayList<>(List.of(
                SettingField.text("folder", "Folder", "dryer", "records")
                        .checked(FileSettings::folder)
                        .helped("Under the folder for files; made if it is not there."),
                SettingField.choice(
                        "format",
                        "Format",
                        "csv",
                        "CSV (RFC 4180)",
                        "jsonl",
                        "JSON Lines (RFC 8259, a row a line)",
                        "xlsx",
                        "XLSX workbook"),
                SettingField.choice(
                        "separator", "Separator (CSV)", "comma", "comma", "semicolon", "semicolon", "tab", "tab"),
                SettingField.choice("decimal", "Decimal sign (CSV)", "point", "point", "comma", "comma"),
                SettingField.choice(
                        "encoding",
                        "Encoding (CSV)",
                        "bom",
                        "UTF-8 with a byte-order mark, as spreadsheets want it",
                        "utf8",
                        "UTF-8",
                        "latin",
                        "Windows-1252"),
                SettingField.yesNo("header", "Header line (CSV)", true),
                SettingField.yesNo("guarded", "Guard texts against spreadsheet formulas (CSV)", true)
                        .helped(
                                "A text that begins with = + - or @ and is no number is led by an apostrophe, so that a spreadsheet does not compute it. Off: every text is written as it is."),
                SettingField.choice(
                        "times",
                        "Times",
                        "utc",
                        "UTC as in RFC 3339",
                        "plain",
                        "UTC as a spreadsheet reads it (2026-11-01 06:00:00)",
                        "plant",
                        "plant time with its offset"),
                SettingField.text("newFileRows", "New file after so many rows", "1000000", "0")
                        .checked(SettingField.whole(0, 1_000_000_000, "A whole number; 0 for never."))
                        .seldom(),
                SettingField.text("newFileMegabytes", "New file after so many megabytes", "100", "0")
                        .checked(SettingField.whole(0, 1_000_000, "A whole number; 0 for never."))
                        .seldom(),
                SettingField.text("quotaMegabytes", "Folder holds at most (megabytes)", "10000", "0")
                        .checked(SettingField.whole(0, 100_000_000, "A whole number; 0 for no limit."))
                        .helped("When it is full, rows wait on disk until there is room.")
                        .seldom(),
                SettingField.text("keepDays", "Remove files after so many days", "365", "0")
                        .checked(SettingField.whole(0, 36_500, "A whole number; 0 to keep them for ever."))
                        .helped("Once a day in the small hours; only files that recorders wrote here.")
                        .seldom(),
                SettingField.text("template", "Template (XLSX)", "shift report.xlsx", "")
                        .checked(FileSettings::template)
                        .helped(
                                "A workbook in the folder; its table is filled below the row that has the columns' names.")
                        .seldom()));
        fields.addAll(Batching.fields("1000", "5"));
        return List.copyOf(fields);
    }

    private static String folder(String text) {
        for (String part : text.strip().split("/", -1)) {
            if (!part.matches("[\\p{L}\\p{N}_][\\p{L}\\p{N} ._-]{0,99}")) {
                return "A folder name has letters, digits, spaces and . _ - and begins with a letter or digit; folders within are divided by /.";
            }
        }
        return "";
    }

    private static String template(String text) {
        return text.isBlank() || text.strip().matches("[\\p{L}\\p{N}_][\\p{L}\\p{N} ._-]{0,99}\\.xlsx")
                ? ""
                : "The name of an .xlsx file in the folder.";
    }
}
