package delim

import (
	"fmt"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"junvo/internal/table"
)

// texts are made-up lines in the languages of each encoding.
var texts = []struct{ encoding, text string }{
	{"windows-1252", "Möwe;Größe;über;schön;Bäckerei;weiß\nSchlüssel;Höhe;für;Käse;süß;Straße\n"},
	{"windows-1252", "déjà;élève;français;à côté;forêt;naïf\nnoël;crème;fenêtre;où;Évian;même\n"},
	{"windows-1252", "señor;mañana;año;niño;corazón;también\ncamión;árbol;país;acción;jamón;Ñandú\n"},
	{"windows-1252", "smørrebrød;fisker;båd;æble;grønt;kød\nåben;sø;bæk;hår;rød;blå\n"},
	{"windows-1250", "źródło;żółw;książka;część;łódź;gęś\nświeży;ciężki;mąka;śledź;dąb;pięć\n"},
	{"iso-8859-2", "příliš;žluťoučký;kůň;úpěl;ďábelské;ódy\nšťastný;řeka;měsíc;těžký;čtvrtek;týden\n"},
	{"windows-1251", "рыба;причал;шхуна;капитан;сельдь;весна\nзима;море;ветер;берег;улица;дорога\n"},
	{"koi8-r", "рыба;причал;шхуна;капитан;сельдь;весна\nзима;море;ветер;берег;улица;дорога\n"},
	{"iso-8859-5", "рыба;причал;шхуна;капитан;сельдь;весна\nзима;море;ветер;берег;улица;дорога\n"},
	{"windows-1253", "ψάρι;λιμάνι;καΐκι;θάλασσα;άνεμος;βάρκα\nχειμώνας;άνοιξη;δρόμος;νησί;ήλιος;ώρα\n"},
	{"windows-1254", "balık;ağ;kıyı;gemi;şehir;İskele\nyağmur;rüzgâr;kış;ılık;çağ;güneş\n"},
	{"windows-1257", "žuvis;ėjimas;šaltis;ąžuolas;ūkis;įlanka\nčia;žvejys;krūva;ėriena;šviesa;ųžė\n"},
	{"cp850", "Möwe;Größe;über;schön;Bäckerei;weiß\nSchlüssel;Höhe;für;Käse;süß;Straße\n"},
	{"cp850", "déjà;élève;français;à côté;forêt;naïf\nnoël;crème;fenêtre;où;Évian;même\n"},
	{"macintosh", "Möwe;Größe;über;schön;Bäckerei;weiß\nSchlüssel;Höhe;für;Käse;süß;Straße\n"},
	{"macintosh", "déjà;élève;français;à côté;forêt;naïf\nnoël;crème;fenêtre;où;Évian;même\n"},
	{"cp852", "źródło;żółw;książka;część;łódź;gęś\nświeży;ciężki;mąka;śledź;dąb;pięć\n"},
	{"cp852", "příliš;žluťoučký;kůň;úpěl;ďábelské;ódy\nšťastný;řeka;měsíc;těžký;čtvrtek;týden\n"},
	{"cp866", "рыба;причал;шхуна;капитан;сельдь;весна\nзима;море;ветер;берег;улица;дорога\n"},
	{"windows-874", "ปลา;ท่าเรือ;น้ำหนัก;เรือ;ทะเล;ลม\nกัปตัน;ฤดูหนาว;ถนน;เกาะ;วันนี้;ราคา\n"},
	{"utf-32le", "Möwe;Größe;über\nSchlüssel;Höhe;für\n"},
	{"utf-32be", "рыба;причал;шхуна\nзима;море;ветер\n"},
	{"big5", "姓名,地址,電話\n陳大文,台北市中山區,一二三\n林小明,高雄市,四五六\n"},
	{"shift_jis", "港の名前,魚の種類,重さ\nさくら丸,にしん,十二\nかもめ丸,たら,二十\nうみねこ丸,かれい,三十\n"},
	{"euc-jp", "港の名前,魚の種類,重さ\nさくら丸,にしん,十二\nかもめ丸,たら,二十\nうみねこ丸,かれい,三十\n"},
	{"gb18030", "港口名称,鱼的种类,重量\n春风号,鲱鱼,十二公斤\n海鸥号,鳕鱼,二十公斤\n这是一个很小的渔港,我们在这里工作\n"},
	{"big5", "港口名稱,魚的種類,重量\n春風號,鯡魚,十二公斤\n海鷗號,鱈魚,二十公斤\n這是一個很小的漁港,我們在這裡工作\n"},
}

func TestGuessEncoding(t *testing.T) {
	for _, tt := range texts {
		c, err := charsetNamed(tt.encoding)
		require.NoError(t, err)
		for _, times := range []int{1, 20} {
			text := strings.Repeat(tt.text, times)
			raw := encodeAs(t, c, text)
			got, why := detectCharset(raw)
			if strings.Contains(why, "as likely") {
				assert.Equal(t, 1, times, "%s: doubt in spite of much text: %s", tt.encoding, why)
				continue
			}
			assert.Equal(t, c.name, got.name, "%s times %d: %s", tt.text[:20], times, why)
		}
	}
}

// A file that starts with ASCII only is decided by the first bytes that are not.
func TestEncodingIsDecidedByTheFirstBytesBeyondASCII(t *testing.T) {
	start := "id,name\n" + strings.Repeat("1234,abcdefgh\n", 50_000)
	for _, name := range []string{"utf-8", "windows-1252", "koi8-r", "shift_jis"} {
		c, err := charsetNamed(name)
		require.NoError(t, err)
		text := map[string]string{
			"utf-8": "1,Größe\n", "windows-1252": "1,Größe\n2,über\n", "koi8-r": "1,рыба\n2,причал\n", "shift_jis": "1,さくら丸\n2,港の名前\n",
		}[name]
		raw := []byte(text)
		if !c.utf8() {
			raw = encodeAs(t, c, text)
		}
		info, rows := read(t, start+string(raw), Options{})
		assert.Equal(t, name, info.Encoding)
		require.Len(t, rows, 50_000+strings.Count(text, "\n"))
		last := rows[len(rows)-1]
		assert.Equal(t, text[:len(text)-1][strings.LastIndexByte(text[:len(text)-1], '\n')+1:], strings.Join(last, ","))
	}
}

// encodeAs is the way back from decode, for tests.
func encodeAs(t *testing.T, c *charset, text string) []byte {
	t.Helper()
	if c.enc != nil {
		out, err := c.enc.NewEncoder().Bytes([]byte(text))
		require.NoError(t, err)
		return out
	}
	bytesOf := map[string]byte{}
	for b, s := range c.table {
		bytesOf[s] = byte(b)
	}
	var out []byte
	for _, r := range text {
		b, ok := bytesOf[string(r)]
		require.True(t, ok, "%q is not in %s", r, c.name)
		out = append(out, b)
	}
	require.Equal(t, text, string(c.decode(nil, out)))
	return out
}

// What is western in both comes before Central Europe.
func TestWesternBeforeCentralEuropean(t *testing.T) {
	c, err := charsetNamed("windows-1252")
	require.NoError(t, err)
	for _, text := range []string{
		"forêt;même;tête;fête;rêve;bête\n", "été;café;Évian;dé;né;pré\n", "naïve;où;ça;là;noël;aiguë\n", "über;Käse;Öl;Möwe\n",
		"niño;año;señal;mañana\n", "São Paulo;João;mãe;pão;não\n", "Crêpe 12;Forêt 7;Dés 9\n",
	} {
		raw := encodeAs(t, c, text)
		got, why := detectCharset(raw)
		assert.Equal(t, "windows-1252", got.name, "%s: %s", text, why)
	}
}

func TestGuessUTF16(t *testing.T) {
	for _, name := range []string{"utf-16le", "utf-16be"} {
		var raw []byte
		for _, r := range "Landing;Vessel\n1;Möwe\n" {
			if name == "utf-16le" {
				raw = append(raw, byte(r), byte(r>>8))
			} else {
				raw = append(raw, byte(r>>8), byte(r))
			}
		}
		c, why := detectCharset(raw)
		assert.Equal(t, name, c.name, why)
		info, rows := read(t, string(raw), Options{})
		assert.Equal(t, []string{"Landing", "Vessel"}, info.Names)
		assert.Equal(t, [][]string{{"1", "Möwe"}}, rows)
	}
}

// Every byte of a one-byte encoding is some character, and none is lost.
func TestDecodeKeepsEveryByte(t *testing.T) {
	all := make([]byte, 256)
	for i := range all {
		all[i] = byte(i)
	}
	for _, f := range frequent {
		c, err := charsetNamed(f.name)
		require.NoError(t, err)
		seen := map[string]bool{}
		for _, s := range c.table {
			assert.False(t, seen[s], "%s has %q twice", f.name, s)
			seen[s] = true
		}
		assert.Len(t, []rune(string(c.decode(nil, all))), 256, f.name)
	}
}

// rowsOf reads all rows of a text, the cells with bars between, and the lines above; comments stand in brackets.
func rowsOf(t *testing.T, text string, o Options) (rows, above []string) {
	t.Helper()
	s, err := Open(strings.NewReader(text), "t", int64(len(text)), o)
	require.NoError(t, err)
	for _, l := range s.Info().Above {
		above = append(above, fmt.Sprintf("%d %s", l.Number, l.Text))
	}
	for {
		b := &table.Block{}
		if err := s.Next(b); err != nil {
			return rows, above
		}
		s.Split(b)
		odd := map[int]bool{}
		for _, o := range b.Odd {
			odd[o.Row] = true
		}
		for r := range b.Rows {
			row := strings.Join(b.RowCells(r), "|")
			if odd[r] {
				row = "[" + row + "]"
			}
			rows = append(rows, row)
		}
	}
}

// Lines that are told to be comments are rows of one cell, wherever they stand; in quotes, and as a part of a cell in quotes,
// they are none.
func TestComments(t *testing.T) {
	text := "# a,\"b\n#\nno;kg\n1;2\n#;3 \"x;;;;\n\"# 4\";5\n\"two\n# 6\";7\n8;# 9\n#"
	rows, above := rowsOf(t, text, Options{Comment: "#"})
	assert.Equal(t, []string{"1|2", "[#;3 \"x;;;;]", "# 4|5", "two\n# 6|7", "8|# 9", "[#]"}, rows)
	assert.Equal(t, []string{"1 # a,\"b", "2 #"}, above)
	rows, _ = rowsOf(t, strings.ReplaceAll(text, "#", "//"), Options{Comment: "//"})
	assert.Equal(t, []string{"1|2", "[//;3 \"x;;;;]", "// 4|5", "two\n// 6|7", "8|// 9", "[//]"}, rows)
	rows, _ = rowsOf(t, "a,b\n#,1\n'#,2\n#'x,3\n", Options{Comment: "#", Quote: "none"})
	assert.Equal(t, []string{"[#,1]", "'#|2", "[#'x,3]"}, rows)
	rows, _ = rowsOf(t, "size,n\n5\" pipe,1\n# c\n\"a, \"\"b\"\"\n# no\",2\n# c\n\"\",3\n#\n", Options{Comment: "#"})
	assert.Equal(t, []string{"5\" pipe|1", "[# c]", "a, \"b\"\n# no|2", "[# c]", "|3", "[#]"}, rows, "a quote within a cell opens none")
	rows, _ = rowsOf(t, "x\n1\n# c\n", Options{Comment: "#"})
	assert.Equal(t, []string{"1", "[# c]"}, rows)
	rows, above = rowsOf(t, "# t\nno  kg\n1    2\n# c\n", Options{Comment: "#", Widths: []int{4, 2}})
	assert.Equal(t, []string{"1|2", "[# c]"}, rows)
	assert.Equal(t, []string{"1 # t"}, above)
	utf16 := []byte{0xff, 0xfe}
	for _, c := range []byte("a,b\n# x,y,z\n1,2\n") {
		utf16 = append(utf16, c, 0)
	}
	rows, _ = rowsOf(t, string(utf16), Options{Comment: "#"})
	assert.Equal(t, []string{"[# x,y,z]", "1|2"}, rows)
}

// Without quotes no character is one.
func TestNoQuotes(t *testing.T) {
	for _, quote := range []string{"\x00", "\x01", "\"", "'"} {
		rows, _ := rowsOf(t, "a,b,c\n"+quote+"x,y"+quote+",2\n"+quote+",,\n", Options{Quote: "none"})
		assert.Equal(t, []string{quote + "x|y" + quote + "|2", quote + "||"}, rows)
	}
}

// Tables as databases write them, with tabs, backslashes and \N.
func TestTabbed(t *testing.T) {
	text := "no\tnote\tkg\n1\t\\N\t2\n2\ta\\tb \"c\"\t\\N\n3\tx\\\ny\t4\n4\t\\\\N\t5\n5\t\\n\\\\\t6\n"
	want := []string{"1||2", "2|a\tb \"c\"|", "3|x\ny|4", `4|\N|5`, "5|\n\\|6"}
	rows, _ := rowsOf(t, text, Options{})
	assert.Equal(t, want, rows)
	rows, _ = rowsOf(t, text, Options{Delimiter: "tab", Quote: "none", Escape: "backslash"})
	assert.Equal(t, want, rows)
	rows, _ = rowsOf(t, text, Options{Delimiter: "tab", Quote: "none"})
	assert.Equal(t, `1|\N|2`, rows[0], "as told")
	for _, text := range []string{"a\tb\n1\tC:\\New\n", "a,b\n\\N,2\n", "a\tb\n\\N\t2\nno tab\nno tab\n"} {
		assert.False(t, isTabbed([]byte(text)), text)
	}
}

// A rule of dashes below the names says where the columns are; lines with text between them are no rows.
func TestRuleOfDashes(t *testing.T) {
	text := "Landings of March, all\n\nno     vessel        kg\n------ ---------- ------\n000042 Möwe  2021   12.5\n000043 Marlies       7.0\n\n(2 rows affected)\n"
	rows, above := rowsOf(t, text, Options{})
	assert.Equal(t, []string{"------|----------|------", "000042|Möwe  2021|12.5", "000043|Marlies|7.0", "", "(2 rows affected)"}, rows)
	assert.Equal(t, []string{"1 Landings of March, all", "2 "}, above)
	again, _ := rowsOf(t, text, Options{Widths: []int{7, 11, 6}})
	assert.Equal(t, rows, again)
	for _, text := range []string{
		"a,b\n--,--\n1,2\n", "a|b\n-- --\n1|2\n", "- -\n1 2\n", "\n-- --\n1 2\n", "a b\n- -\n1 2\n", "a\tb\n-- --\n1\t2\n",
		strings.Repeat("x\n", 30) + "a  b\n-- --\n1  2\n",
	} {
		s, err := Open(strings.NewReader(text), "t", -1, Options{})
		require.NoError(t, err)
		assert.Nil(t, s.Info().Widths, text)
	}
}
