-- Drives Neovim as a person would: opens the demo with its faults, reads the findings, asks for words and offers, applies a mend, and
-- compares. Run by the tests as
--   DULK=path/to/dulk FOLDER=path/to/the/demo nvim --headless -u NONE -c 'luafile scripts/neovim.lua'
-- Neovim 0.7 and newer. Ends with 0 when all is as it should be, and says what is not.

local patience = 30000

local function fail(what)
  io.stdout:write('not as it should be: ' .. what .. '\n')
  vim.cmd('cquit 1')
end

local function check()
  local program, folder = vim.env.DULK, vim.env.FOLDER
  local path = folder .. '/.github/workflows/preview.yml'
  vim.cmd('edit ' .. vim.fn.fnameescape(path))
  local buffer = vim.api.nvim_get_current_buf()

  local client = vim.lsp.start_client({
    name = 'dulk',
    cmd = { program, 'serve', '--today', '2026-11-25' },
    root_dir = folder,
    workspace_folders = { { uri = vim.uri_from_fname(folder), name = 'demo' } },
  })
  if not client then return fail('the server does not start') end
  vim.lsp.buf_attach_client(buffer, client)

  -- The findings are those of the program in a terminal.
  local ran = vim.fn.system({ 'sh', '-c', 'cd "$1" && "$2" check --today 2026-11-25 --format json', 'sh', folder, program })
  local expected = {}
  for _, finding in ipairs(vim.fn.json_decode(ran).findings) do
    if finding.file == '.github/workflows/preview.yml' then
      table.insert(expected, finding.rule .. ' ' .. finding.range.start.line)
    end
  end
  table.sort(expected)
  local function told()
    local found = {}
    for _, one in ipairs(vim.diagnostic.get(buffer)) do
      table.insert(found, (one.code or one.user_data.lsp.code) .. ' ' .. (one.lnum + 1))
    end
    table.sort(found)
    return found
  end
  if #expected == 0 then return fail('the demo has no faults') end
  if not vim.wait(patience, function() return vim.deep_equal(told(), expected) end, 20) then
    return fail('findings ' .. vim.inspect(told()) .. ' rather than ' .. vim.inspect(expected))
  end

  local function ask(method, line, column, more)
    local params = vim.tbl_extend('force', {
      textDocument = { uri = vim.uri_from_bufnr(buffer) },
      position = { line = line - 1, character = column },
    }, more or {})
    local answers = vim.lsp.buf_request_sync(buffer, method, params, patience)
    local answer = answers and answers[client]
    if not answer or answer.err then
      fail(method .. ' has no answer')
      return {}
    end
    return answer.result or {}
  end

  local lines = vim.api.nvim_buf_get_lines(buffer, 0, -1, false)
  local function line_of(words)
    for number, line in ipairs(lines) do
      local at = line:find(words, 1, true)
      if at then return number, at - 1 end
    end
    fail(words .. ' is not in the demo')
  end

  local number, column = line_of('build:')
  local words = ask('textDocument/hover', number, column)
  if not (words.contents and words.contents.value:find('Job', 1, true)) then return fail('words on a job') end

  number, column = line_of('biuld')
  local offers = ask('textDocument/completion', number, column, { context = { triggerKind = 1 } })
  local labels = vim.tbl_map(function(item) return item.label end, offers.items or {})
  if not vim.tbl_contains(labels, 'build') then return fail('offers ' .. vim.inspect(labels)) end

  local place = { line = number - 1, character = column }
  local actions = ask('textDocument/codeAction', number, column, {
    range = { start = place, ['end'] = place },
    context = { diagnostics = {} },
  })
  local mend = nil
  for _, action in ipairs(actions) do
    if action.isPreferred then mend = action end
  end
  if not mend then return fail('no certain mend among ' .. vim.inspect(actions)) end
  vim.lsp.util.apply_workspace_edit(mend.edit, 'utf-16')
  local mended = vim.api.nvim_buf_get_lines(buffer, number - 1, number, false)[1]
  if mended ~= lines[number]:gsub('biuld', 'build') then return fail('the mended line is ' .. mended) end
  local function is_gone()
    return not vim.tbl_contains(told(), 'order.absent-job ' .. number)
  end
  if not vim.wait(patience, is_gone, 20) then return fail('what was mended is still told') end

  -- Nothing is written until the person saves.
  if vim.fn.readfile(path)[number] ~= lines[number] then return fail('the file on the disk was written') end
  vim.lsp.stop_client(client)
  io.stdout:write('as it should be: ' .. #expected .. ' findings, words, offers and a mend\n')
  vim.cmd('qall!')
end

local ok, why = pcall(check)
if not ok then fail(tostring(why)) end
