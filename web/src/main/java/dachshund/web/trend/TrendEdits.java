package dachshund.web.trend;

import dachshund.core.destination.StoreProblem;
import dachshund.core.query.QueryDefinition;
import dachshund.core.reader.QueryProblem;
import dachshund.core.reader.TableName;
import dachshund.core.reader.TableShape;
import dachshund.core.reader.TableShape.Sort;
import dachshund.core.reader.TimeColumn;
import dachshund.core.time.PeriodText;
import dachshund.core.trend.Band;
import dachshund.core.trend.Curve;
import dachshund.core.trend.CurveSource;
import dachshund.core.trend.PastedCells;
import dachshund.core.trend.TrendDefinition;
import dachshund.core.window.WindowProblem;
import dachshund.office.definition.Definitions;
import dachshund.office.definition.Drafts;
import dachshund.office.reader.Databases;
import dachshund.office.tag.TagFinder;
import dachshund.office.trend.Trends;
import java.math.BigDecimal;
import java.nio.charset.StandardCharsets;
import java.security.Principal;
import java.time.Duration;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.OptionalDouble;
import java.util.function.UnaryOperator;
import java.util.stream.Collectors;
import org.springframework.stereotype.Component;
import org.springframework.ui.Model;
import org.springframework.web.servlet.mvc.support.RedirectAttributes;
import org.springframework.web.util.UriUtils;

/** What a page of a trend needs to be changed: which curves may be added, and those that are. */
@Component
class TrendEdits {

    static final String PAGE = "/review/trends";

    /** Letters of a window that goes along in an address. */
    private static final int LONGEST_WINDOW = 200;

    /** A query with more columns of numbers is rarely meant as one plot. */
    private static final int MOST_OF_QUERY = 6;

    private final Definitions definitions;
    private final Drafts drafts;
    private final Databases databases;
    private final CurveFields fields;
    private final Trends trends;
    private final TagFinder finder;
    private final BandEdits bands;

    TrendEdits(
            Definitions definitions,
            Drafts drafts,
            Databases databases,
            CurveFields fields,
            Trends trends,
            TagFinder finder,
            BandEdits bands) {
        this.definitions = definitions;
        this.drafts = drafts;
        this.databases = databases;
        this.fields = fields;
        this.trends = trends;
        this.finder = finder;
        this.bands = bands;
    }

    void show(TrendDefinition trend, Model model) {
        model.addAttribute("databases", databases.all());
        model.addAttribute(
                "queries",
                definitions.all(QueryDefinition.class).stream()
                        .filter(QueryDefinition::hasWindow)
                        .toList());
        model.addAttribute("orders", PastedCells.Order.values());
        model.addAttribute("from", words(trend));
        bands.show(trend, model);
        // Whoever adds one curve after the other goes on where the last one went.
        int curves = trend.curves().size();
        model.addAttribute(
                "addTo", curves == 0 ? 1 : trend.curves().get(curves - 1).plot());
        model.addAttribute(
                "backs",
                trend.curves().stream()
                        .collect(Collectors.toMap(
                                Curve::id,
                                curve -> curve.back().isZero() ? "" : PeriodText.write(curve.back()),
                                (a, b) -> a)));
    }

    /**
     * Makes an edit of somebody's, and leads back to the trend as it was looked at; what is refused is said there.
     *
     * @param seen   the revision that was edited
     * @param window that the page shows; empty for that of the trend
     */
    String edited(
            String id,
            int seen,
            String window,
            Principal by,
            RedirectAttributes flash,
            UnaryOperator<TrendDefinition> edit) {
        try {
            drafts.edit(edit.apply(trend(id)), seen, by.getName());
        } catch (IllegalArgumentException refused) {
            flash.addFlashAttribute("problem", refused.getMessage());
        }
        return "redirect:" + PAGE + "/" + id
                + (window.isBlank() || window.length() > LONGEST_WINDOW
                        ? ""
                        : "?window=" + UriUtils.encode(window, StandardCharsets.UTF_8));
    }

    /** @throws IllegalArgumentException with a sentence, where it is gone */
    TrendDefinition trend(String id) {
        return definitions
                .find(TrendDefinition.class, id)
                .orElseThrow(() -> new IllegalArgumentException("This trend is not there any more."));
    }

    /** Where each curve has its values from, in words. */
    private Map<String, String> words(TrendDefinition trend) {
        return trend.curves().stream().collect(Collectors.toMap(Curve::id, curve -> words(curve.from()), (a, b) -> a));
    }

    private String words(CurveSource from) {
        if (from instanceof CurveSource.OfTag tag) {
            return bands.words(tag.tag());
        }
        if (from instanceof CurveSource.OfTable table) {
            return name(table.database()) + " / " + new TableName(table.schema(), table.table()).words() + " / "
                    + table.value() + (table.where().isEmpty() ? "" : " of " + table.named());
        }
        if (from instanceof CurveSource.OfQuery query) {
            return name(query.query()) + " / " + query.value();
        }
        return "pasted cells";
    }

    private String name(String id) {
        return definitions.find(id).map(each -> each.name()).orElse("something that is not there any more");
    }

    private static String free(TrendDefinition trend) {
        return BandEdits.free(id -> trend.curve(id).isPresent());
    }

    /** @throws IllegalArgumentException with a sentence, where there are too many already */
    private static TrendDefinition with(
            TrendDefinition trend, String name, String unit, boolean stepped, boolean marked, CurveSource from) {
        few(trend);
        // What is measured alike shares a scale.
        return trend.with(Curve.of(free(trend), name, unit, stepped, marked, from));
    }

    /** The newest curve, which is the last one, in this plot. */
    static TrendDefinition newIn(TrendDefinition trend, int plot) {
        return trend.changed(
                trend.curves().get(trend.curves().size() - 1).id(),
                each -> each.in(Math.min(plot, trend.plots().size() + 1)));
    }

    private static void few(TrendDefinition trend) {
        if (trend.curves().size() >= Curve.MOST) {
            throw new IllegalArgumentException(
                    "A trend has " + Curve.MOST + " curves at most; nobody could tell more apart. Make another one.");
        }
    }

    /** A curve once more, to be changed in one field. */
    static TrendDefinition again(TrendDefinition trend, String curve) {
        few(trend);
        return trend.with(trend.curve(curve)
                .orElseThrow(() -> new IllegalArgumentException("This curve is not there any more."))
                .again(free(trend)));
    }

    /** All curves of a plot once more, in one below all others. */
    static TrendDefinition plotAgain(TrendDefinition trend, int plot) {
        int below = trend.plots().size() + 1;
        TrendDefinition more = trend;
        for (Curve curve : trend.curvesIn(plot)) {
            few(more);
            more = more.with(curve.again(free(more)).in(below));
        }
        return more;
    }

    static TrendDefinition withoutPlot(TrendDefinition trend, int plot) {
        return trend.of(
                trend.curves().stream().filter(each -> each.plot() != plot).toList());
    }

    /** The same curve of another tag: what was only the name or the unit of the tag is that of the other one. */
    Curve of(Curve curve, String key) {
        if (!(curve.from() instanceof CurveSource.OfTag was)) {
            throw new IllegalArgumentException(curve.name() + " is no curve of a tag.");
        }
        TagFinder.FoundTag tag = found(key);
        Curve other = curve.of(new CurveSource.OfTag(tag.ref()));
        Optional<TagFinder.FoundTag> before = finder.find(was.tag());
        boolean named =
                before.isEmpty() || curve.name().equals(before.get().info().name());
        boolean measured =
                before.isEmpty() || curve.unit().equals(before.get().info().unit());
        other = other.called(
                named ? tag.info().name() : curve.name(), measured ? tag.info().unit() : curve.unit());
        return measured && curve.scale().equals(curve.unit())
                ? other.on(tag.info().unit())
                : other;
    }

    /** @throws IllegalArgumentException with a sentence, where it is no number of digits */
    static int decimals(String text) {
        if (text.isBlank()) {
            return Curve.Look.USUAL.decimals();
        }
        if (!text.strip().matches("\\d{1,2}")) {
            throw new IllegalArgumentException(
                    "\"" + text.strip() + "\" is no number of digits. Write 0 to 10, or nothing.");
        }
        return Integer.parseInt(text.strip());
    }

    private TagFinder.FoundTag found(String key) {
        return finder.find(TagFinder.ref(key))
                .orElseThrow(() -> new IllegalArgumentException("This tag is not there any more."));
    }

    TrendDefinition withTag(TrendDefinition trend, String key) {
        TagFinder.FoundTag tag = found(key);
        return with(
                trend,
                tag.info().name(),
                tag.info().unit(),
                tag.info().kind() != dachshund.core.tag.DataKind.NUMBER,
                false,
                new CurveSource.OfTag(tag.ref()));
    }

    TrendDefinition withPasted(TrendDefinition trend, String name, String cells, String order) {
        CurveSource.Pasted pasted = new CurveSource.Pasted(cells, order);
        trends.pasted(pasted); // says what cannot be read
        return with(trend, name.isBlank() ? "Pasted" : name.strip(), "", false, true, pasted);
    }

    TrendDefinition withTable(
            TrendDefinition trend,
            String database,
            TableName table,
            String time,
            String form,
            String value,
            String where,
            String named) {
        if (time.isEmpty() || value.isEmpty()) {
            throw new IllegalArgumentException("Choose the column of times and the one of values.");
        }
        if (!where.isEmpty() && named.isBlank()) {
            throw new IllegalArgumentException(
                    "Say which rows are meant: what stands in " + where + " of each of them.");
        }
        return with(
                trend,
                where.isEmpty() ? value : named + " " + value,
                "",
                false,
                true,
                new CurveSource.OfTable(
                        database,
                        table.schema(),
                        table.name(),
                        time,
                        TimeColumn.Form.named(form),
                        value,
                        where,
                        where.isEmpty() ? "" : named.strip()));
    }

    TrendDefinition withQuery(TrendDefinition trend, String query, String time, String value) {
        if (time.isEmpty() || value.isEmpty()) {
            throw new IllegalArgumentException("Choose the column of times and the one of values.");
        }
        return with(trend, value, "", false, true, new CurveSource.OfQuery(query, time, value));
    }

    /** @throws IllegalArgumentException with a sentence, where it is no number */
    static OptionalDouble limit(String text) {
        if (text.isBlank()) {
            return OptionalDouble.empty();
        }
        try {
            double number = new BigDecimal(text.strip().replace(',', '.')).doubleValue();
            if (Double.isFinite(number)) {
                return OptionalDouble.of(number);
            }
        } catch (NumberFormatException none) {
            // said below
        }
        throw new IllegalArgumentException("\"" + text.strip() + "\" is no limit. Write a number, such as 95.5.");
    }

    /** @throws IllegalArgumentException with a sentence, where it cannot be read */
    static Duration back(String text) {
        return text.isBlank() || text.strip().equals("0") ? Duration.ZERO : PeriodText.read(text.strip());
    }

    /**
     * What a query gives as curves: its first time, and each number beside it.
     *
     * @throws IllegalArgumentException with a sentence, where it has none of them, or cannot be asked
     */
    TrendDefinition ofQuery(String trend, String id) {
        QueryDefinition query = fields.query(id);
        if (!query.hasWindow()) {
            throw new IllegalArgumentException(
                    query.name()
                            + " has no window, so that a plot could not ask it for what it shows. Give it one: :from and :to in SQL, or a time in its lines.");
        }
        List<TableShape.Column> columns;
        try {
            columns = fields.columns(query);
        } catch (StoreProblem | QueryProblem | WindowProblem problem) {
            throw new IllegalArgumentException(problem.getMessage(), problem);
        }
        String time = columns.stream()
                .filter(column -> column.sort() == Sort.STAMP || column.sort() == Sort.DATE)
                .map(TableShape.Column::name)
                .findFirst()
                .orElseThrow(() -> new IllegalArgumentException(
                        query.name() + " gives no column of times, so that it cannot be drawn over time."));
        List<String> numbers = columns.stream()
                .filter(column -> column.sort() == Sort.NUMBER)
                .map(TableShape.Column::name)
                .limit(MOST_OF_QUERY)
                .toList();
        if (numbers.isEmpty()) {
            throw new IllegalArgumentException(
                    query.name() + " gives no column of numbers, so that nothing can be drawn.");
        }
        TrendDefinition made = new TrendDefinition(
                trend,
                definitions.freeName(TrendDefinition.class, trend, query.name()),
                "",
                query.window().isBlank() ? "last 24 h" : query.window(),
                List.of(Band.shifts("1")),
                List.of());
        for (String number : numbers) {
            made = withQuery(made, id, time, number);
        }
        return made;
    }
}
