package dachshund.web.query;

import java.nio.charset.StandardCharsets;
import java.util.Map;
import java.util.stream.Collectors;
import org.springframework.stereotype.Component;
import org.springframework.web.util.UriUtils;

/** Addresses with any number of parameters, for templates. */
@Component("addresses")
class Addresses {

    public String of(String path, Map<String, String> values) {
        return path
                + values.entrySet().stream()
                        .map(each -> UriUtils.encode(each.getKey(), StandardCharsets.UTF_8) + "="
                                + UriUtils.encode(each.getValue(), StandardCharsets.UTF_8))
                        .collect(Collectors.joining("&", values.isEmpty() ? "" : "?", ""));
    }
}
