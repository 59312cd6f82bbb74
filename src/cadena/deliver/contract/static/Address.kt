import java.net.URLDecoder

/** Addresses as RFC 6570 templates, level 1 to 3: told of words, and read back into them. */
object Address {
  private const val LONGEST = 2000
  private const val LIST = "list of "
  private val EXPRESSION = Regex("\\{([+#/?&]?)([A-Za-z0-9_,.%-]*)\\}")
  private val PARTS = Regex("([^?#]*)(?:\\?([^#]*))?(#.*)?", RegexOption.DOT_MATCHES_ALL)
  private val ENCODED = Regex("%[0-9A-Fa-f]{2}")
  private const val UNRESERVED =
    "ABCDEFGHIJKLMNOPQRSTUVWXYZabcdefghijklmnopqrstuvwxyz0123456789-._~"
  private const val RESERVED = ":/?#[]@!$&'()*+,;="

  private class Expression(val before: String, val operator: String, val names: List<String>) {
    val begins = if (operator == "#" || operator == "/") operator else ""
    val between = if (operator == "/") "/" else ","
    val isReserved = operator == "+" || operator == "#"
    val ends = if (isReserved) "" else "/?#&,;"
    val isQuery = operator == "?" || operator == "&"
  }

  /** A text of a template as it stands, or a variable up to one of some letters. */
  private class Piece(val name: String, val text: String)

  private fun expressionsOf(template: String): List<Expression> {
    val found = ArrayList<Expression>()
    var at = 0
    for (match in EXPRESSION.findAll(template)) {
      val before = template.substring(at, match.range.first)
      found.add(Expression(before, match.groupValues[1], match.groupValues[2].split(",")))
      at = match.range.last + 1
    }
    found.add(Expression(template.substring(at), "", listOf()))
    return found
  }

  private fun encoded(text: String, reserved: Boolean): String {
    val made = StringBuilder()
    var at = 0
    while (at < text.length) {
      val whole = String(Character.toChars(text.codePointAt(at)))
      val isEncoded = reserved && ENCODED.matchAt(text, at) != null
      if (whole in UNRESERVED || (reserved && whole in RESERVED) || isEncoded) {
        made.append(whole)
      } else {
        for (each in whole.toByteArray()) made.append("%%%02X".format(each.toInt() and 0xff))
      }
      at += whole.length
    }
    return made.toString()
  }

  private fun decoded(text: String): String? = try {
    URLDecoder.decode(text.replace("+", "%2B"), Charsets.UTF_8)
  } catch (error: IllegalArgumentException) {
    null
  }

  /** The address of these words; null where one that stands in its path has none. */
  fun told(template: String, words: Map<String, String?>): String? {
    val address = StringBuilder()
    for (each in expressionsOf(template)) {
      address.append(each.before)
      if (each.isQuery) {
        val given = each.names.mapNotNull { name ->
          words[name]?.let { "$name=${encoded(it, false)}" }
        }
        if (given.isNotEmpty()) address.append(each.operator).append(given.joinToString("&"))
      } else if (each.names.isNotEmpty()) {
        val values = each.names.map { name ->
          val word = words[name]
          if (word.isNullOrEmpty()) return null
          encoded(word, each.isReserved)
        }
        address.append(each.begins).append(values.joinToString(each.between))
      }
    }
    return address.toString()
  }

  /** The words that an address gives the variables of a template; null where it is another. */
  fun read(template: String, address: String): Map<String, String>? {
    if (address.length > LONGEST) return null
    val parts = PARTS.matchEntire(address) ?: return null
    val (path, query, ending) = parts.destructured
    val found = matched(piecesOf(template), path + if (ending == "#") "" else ending) ?: return null
    val words = LinkedHashMap<String, String>()
    for ((name, value) in found) {
      val word = decoded(value)
      if (word.isNullOrEmpty()) return null
      words[name] = word
    }
    val asked = LinkedHashMap<String, String>()
    for (pair in query.split("&")) {
      val name = decoded(pair.substringBefore("="))
      val value = decoded(pair.substringAfter("=", "").replace("+", " "))
      if (name != null && value != null) asked[name] = value
    }
    for (each in expressionsOf(template)) {
      if (each.isQuery) for (name in each.names) asked[name]?.let { words[name] = it }
    }
    return words
  }

  private fun piecesOf(template: String): List<Piece> {
    val pieces = ArrayList<Piece>()
    var text = ""
    for (each in expressionsOf(template)) {
      text += each.before
      if (each.isQuery) continue
      each.names.forEachIndexed { number, name ->
        text += if (number == 0) each.begins else each.between
        if (text.isNotEmpty()) pieces.add(Piece("", text))
        text = ""
        pieces.add(Piece(name, each.ends))
      }
    }
    if (text.isNotEmpty()) pieces.add(Piece("", text))
    return pieces
  }

  /** Towards the one variable that may hold anything, each other up to the text that ends it. */
  private fun matched(pieces: List<Piece>, whole: String): Map<String, String>? {
    val open = pieces.indexOfFirst { it.name.isNotEmpty() && it.text.isEmpty() }
    var address = whole
    var rest = pieces
    if (open < 0 && pieces.isNotEmpty() && pieces.last().name.isEmpty()) {
      if (!address.endsWith(pieces.last().text)) return null
      address = address.removeSuffix(pieces.last().text)
      rest = pieces.dropLast(1)
    }
    val words = LinkedHashMap<String, String>()
    var start = 0
    for (number in 0 until if (open < 0) rest.size else open) {
      val piece = rest[number]
      if (piece.name.isEmpty()) {
        if (!address.startsWith(piece.text, start)) return null
        start += piece.text.length
        continue
      }
      val isLast = number + 1 == rest.size
      val end = if (isLast) address.length else address.indexOf(rest[number + 1].text, start)
      if (end < 0 || address.substring(start, end).any { it in piece.text }) return null
      words[piece.name] = address.substring(start, end)
      start = end
    }
    if (open < 0) return if (start == address.length) words else null
    var end = address.length
    for (number in pieces.size - 1 downTo open + 1) {
      val piece = pieces[number]
      if (piece.name.isEmpty()) {
        val length = piece.text.length
        if (end < start + length || !address.substring(start, end).endsWith(piece.text)) return null
        end -= length
        continue
      }
      val ahead = pieces[number - 1].text
      val at = address.substring(start, end).lastIndexOf(ahead)
      if (at < 0) return null
      val begin = start + at + ahead.length
      if (address.substring(begin, end).any { it in piece.text }) return null
      words[piece.name] = address.substring(begin, end)
      end = begin
    }
    words[pieces[open].name] = address.substring(start, end)
    return words
  }

  /** A value as it stands in an address; null for none. */
  fun word(value: Any?): String? = when (value) {
    null -> null
    is Boolean -> if (value) "yes" else "no"
    is List<*> -> value.joinToString(",") { word(it) ?: "" }
    is Double ->
      if (value == Math.rint(value) && Math.abs(value) < 1e15) "${value.toLong()}" else "$value"
    else -> value.toString()
  }

  /** A word of an address as a value of a type; null where it is none. */
  fun valueOf(text: String?, type: String): Any? = when {
    text == null -> null
    type.startsWith(LIST) -> {
      val values = text.split(",").map { valueOf(it, type.removePrefix(LIST)) }
      if (values.any { it == null }) null else values
    }
    type == "whole number" -> text.toLongOrNull()
    type == "number" -> text.toDoubleOrNull()
    type == "yes/no" -> when (text) {
      "yes", "true" -> true
      "no", "false" -> false
      else -> null
    }
    else -> text
  }

  /** A value that came as JSON, as one of a type; null where it is none. */
  fun fitting(value: Any?, type: String): Any? = when {
    type.startsWith(LIST) -> {
      val values = (value as? List<*>)?.map { fitting(it, type.removePrefix(LIST)) }
      if (values == null || values.any { it == null }) null else values
    }
    type == "whole number" -> value as? Long
    type == "number" -> (value as? Number)?.toDouble()
    type == "yes/no" -> value as? Boolean
    else -> value as? String
  }
}
