import java.net.URLDecoder;
import java.nio.charset.StandardCharsets;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.regex.Matcher;
import java.util.regex.Pattern;

/** Addresses as RFC 6570 templates, level 1 to 3: told of words, and read back into them. */
public final class Address {
  private static final int LONGEST = 2000;
  private static final Pattern EXPRESSION =
      Pattern.compile("\\{([+#/?&]?)([A-Za-z0-9_,.%-]*)\\}");
  private static final String UNRESERVED =
      "ABCDEFGHIJKLMNOPQRSTUVWXYZabcdefghijklmnopqrstuvwxyz0123456789-._~";
  private static final String RESERVED = ":/?#[]@!$&'()*+,;=";

  private Address() {}

  private record Expression(String before, String operator, List<String> names) {}

  private record Piece(String name, String text) {}

  private static String begins(String operator) {
    return operator.equals("#") || operator.equals("/") ? operator : "";
  }

  private static String between(String operator) {
    return operator.equals("/") ? "/" : ",";
  }

  private static String ends(String operator) {
    return operator.equals("+") || operator.equals("#") ? "" : "/?#&,;";
  }

  private static boolean isQuery(String operator) {
    return operator.equals("?") || operator.equals("&");
  }

  private static List<Expression> expressionsOf(String template) {
    List<Expression> found = new ArrayList<>();
    Matcher match = EXPRESSION.matcher(template);
    int at = 0;
    while (match.find()) {
      String before = template.substring(at, match.start());
      found.add(new Expression(before, match.group(1), List.of(match.group(2).split(",", -1))));
      at = match.end();
    }
    found.add(new Expression(template.substring(at), "", List.of()));
    return found;
  }

  private static String encoded(String text, boolean reserved) {
    StringBuilder made = new StringBuilder();
    for (int at = 0; at < text.length(); ) {
      int letter = text.codePointAt(at);
      String whole = new String(Character.toChars(letter));
      boolean isEncoded = reserved && text.startsWith("%", at)
          && text.substring(at, Math.min(at + 3, text.length())).matches("%[0-9A-Fa-f]{2}");
      if (UNRESERVED.contains(whole) || (reserved && RESERVED.contains(whole)) || isEncoded) {
        made.append(whole);
      } else {
        for (byte each : whole.getBytes(StandardCharsets.UTF_8)) {
          made.append(String.format("%%%02X", each & 0xff));
        }
      }
      at += whole.length();
    }
    return made.toString();
  }

  private static String decoded(String text) {
    return URLDecoder.decode(text.replace("+", "%2B"), StandardCharsets.UTF_8);
  }

  /** The address of these words; null where one that stands in its path has none. */
  public static String told(String template, Map<String, String> words) {
    StringBuilder address = new StringBuilder();
    for (Expression each : expressionsOf(template)) {
      address.append(each.before());
      if (isQuery(each.operator())) {
        List<String> given = new ArrayList<>();
        for (String name : each.names()) {
          if (words.get(name) != null) given.add(name + "=" + encoded(words.get(name), false));
        }
        if (!given.isEmpty()) address.append(each.operator()).append(String.join("&", given));
      } else if (!each.names().isEmpty()) {
        List<String> values = new ArrayList<>();
        boolean reserved = each.operator().equals("+") || each.operator().equals("#");
        for (String name : each.names()) {
          String word = words.getOrDefault(name, "");
          if (word == null || word.isEmpty()) return null;
          values.add(encoded(word, reserved));
        }
        address.append(begins(each.operator()));
        address.append(String.join(between(each.operator()), values));
      }
    }
    return address.toString();
  }

  /** The words that an address gives the variables of a template; null where it is another. */
  public static Map<String, String> read(String template, String address) {
    Matcher parts =
        Pattern.compile("([^?#]*)(?:\\?([^#]*))?(#.*)?", Pattern.DOTALL).matcher(address);
    if (address.length() > LONGEST || !parts.matches()) return null;
    String fragment = parts.group(3) == null || parts.group(3).equals("#") ? "" : parts.group(3);
    Map<String, String> found = matched(piecesOf(template), parts.group(1) + fragment);
    if (found == null) return null;
    Map<String, String> words = new LinkedHashMap<>();
    for (Map.Entry<String, String> each : found.entrySet()) {
      String word = decodedOrNull(each.getValue());
      if (word == null || word.isEmpty()) return null;
      words.put(each.getKey(), word);
    }
    Map<String, String> asked = new LinkedHashMap<>();
    String query = parts.group(2) == null ? "" : parts.group(2);
    for (String pair : query.split("&")) {
      int equals = pair.indexOf('=');
      String name = decodedOrNull(equals < 0 ? pair : pair.substring(0, equals));
      String value = decodedOrNull(equals < 0 ? "" : pair.substring(equals + 1).replace("+", " "));
      if (name != null && value != null) asked.put(name, value);
    }
    for (Expression each : expressionsOf(template)) {
      if (!isQuery(each.operator())) continue;
      for (String name : each.names()) if (asked.containsKey(name)) words.put(name, asked.get(name));
    }
    return words;
  }

  private static String decodedOrNull(String text) {
    try {
      return decoded(text);
    } catch (IllegalArgumentException error) {
      return null;
    }
  }

  private static List<Piece> piecesOf(String template) {
    List<Piece> pieces = new ArrayList<>();
    StringBuilder text = new StringBuilder();
    for (Expression each : expressionsOf(template)) {
      text.append(each.before());
      if (isQuery(each.operator())) continue;
      for (int number = 0; number < each.names().size(); number++) {
        text.append(number == 0 ? begins(each.operator()) : between(each.operator()));
        if (text.length() > 0) pieces.add(new Piece("", text.toString()));
        text.setLength(0);
        pieces.add(new Piece(each.names().get(number), ends(each.operator())));
      }
    }
    if (text.length() > 0) pieces.add(new Piece("", text.toString()));
    return pieces;
  }

  private static boolean holds(String value, String letters) {
    return value.chars().anyMatch(each -> letters.indexOf(each) >= 0);
  }

  /** Towards the one variable that may hold anything, each other up to the text that ends it. */
  private static Map<String, String> matched(List<Piece> pieces, String whole) {
    int open = -1;
    for (int at = pieces.size() - 1; at >= 0; at--) {
      if (!pieces.get(at).name().isEmpty() && pieces.get(at).text().isEmpty()) open = at;
    }
    String address = whole;
    List<Piece> rest = pieces;
    int size = pieces.size();
    if (open < 0 && size > 0 && pieces.get(size - 1).name().isEmpty()) {
      String last = pieces.get(size - 1).text();
      if (!address.endsWith(last)) return null;
      address = address.substring(0, address.length() - last.length());
      rest = pieces.subList(0, size - 1);
    }
    Map<String, String> words = new LinkedHashMap<>();
    int start = 0;
    int until = open < 0 ? rest.size() : open;
    for (int number = 0; number < until; number++) {
      Piece piece = rest.get(number);
      if (piece.name().isEmpty()) {
        if (!address.startsWith(piece.text(), start)) return null;
        start += piece.text().length();
        continue;
      }
      boolean isLast = number + 1 == rest.size();
      int end = isLast ? address.length() : address.indexOf(rest.get(number + 1).text(), start);
      if (end < 0 || holds(address.substring(start, end), piece.text())) return null;
      words.put(piece.name(), address.substring(start, end));
      start = end;
    }
    if (open < 0) return start == address.length() ? words : null;
    int end = address.length();
    for (int number = size - 1; number > open; number--) {
      Piece piece = pieces.get(number);
      if (piece.name().isEmpty()) {
        int length = piece.text().length();
        if (end < start + length || !address.substring(start, end).endsWith(piece.text())) {
          return null;
        }
        end -= length;
        continue;
      }
      String ahead = pieces.get(number - 1).text();
      int at = address.substring(start, end).lastIndexOf(ahead);
      if (at < 0) return null;
      int begin = start + at + ahead.length();
      if (holds(address.substring(begin, end), piece.text())) return null;
      words.put(piece.name(), address.substring(begin, end));
      end = begin;
    }
    words.put(pieces.get(open).name(), address.substring(start, end));
    return words;
  }

  /** A value as it stands in an address; null for none. */
  public static String word(Object value) {
    if (value == null) return null;
    if (value instanceof Boolean flag) return flag ? "yes" : "no";
    if (value instanceof List<?> some) {
      List<String> words = new ArrayList<>();
      for (Object each : some) words.add(word(each));
      return String.join(",", words);
    }
    if (value instanceof Double number && number == Math.rint(number) && Math.abs(number) < 1e15) {
      return String.valueOf(number.longValue());
    }
    return String.valueOf(value);
  }

  /** A word of an address as a value of a type; null where it is none. */
  public static Object valueOf(String text, String type) {
    if (text == null) return null;
    if (type.startsWith("list of ")) {
      List<Object> values = new ArrayList<>();
      for (String each : text.split(",", -1)) {
        Object value = valueOf(each, type.substring("list of ".length()));
        if (value == null) return null;
        values.add(value);
      }
      return values;
    }
    try {
      return switch (type) {
        case "whole number" -> Long.valueOf(text);
        case "number" -> Double.valueOf(text);
        case "yes/no" -> switch (text) {
          case "yes", "true" -> Boolean.TRUE;
          case "no", "false" -> Boolean.FALSE;
          default -> null;
        };
        default -> text;
      };
    } catch (NumberFormatException error) {
      return null;
    }
  }

  /** A value that came as JSON, as one of a type; null where it is none. */
  public static Object fitting(Object value, String type) {
    if (type.startsWith("list of ")) {
      if (!(value instanceof List<?> some)) return null;
      List<Object> values = new ArrayList<>();
      for (Object each : some) {
        Object fit = fitting(each, type.substring("list of ".length()));
        if (fit == null) return null;
        values.add(fit);
      }
      return values;
    }
    return switch (type) {
      case "whole number" -> value instanceof Long ? value : null;
      case "number" -> value instanceof Number number ? (Object) number.doubleValue() : null;
      case "yes/no" -> value instanceof Boolean ? value : null;
      default -> value instanceof String ? value : null;
    };
  }
}
