#!/usr/bin/env -S node --conditions=bundled
import '../dist/main.js'
